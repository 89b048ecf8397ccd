"""Chords: their names, and how they are heard."""
