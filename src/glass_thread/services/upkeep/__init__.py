"""A data folder kept in order."""
