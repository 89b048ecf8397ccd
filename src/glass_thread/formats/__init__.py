"""Readers and writers of open formats: bytes and paths in, core types out."""
