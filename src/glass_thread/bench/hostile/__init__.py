"""Hostile files, documents and processes, and what is left of the data afterwards."""
