"""Tracks as they stand at a step, kept at hand."""
