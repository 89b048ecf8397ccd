"""Recordings, analyses and prints as files of the data folder."""
