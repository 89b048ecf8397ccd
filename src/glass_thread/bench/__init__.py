"""Measurements: quality, speed, and what is left under attack."""
