"""Measuring sound: loudness, and results against exact truth."""
