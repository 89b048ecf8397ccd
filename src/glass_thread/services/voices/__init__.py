"""Other voices: followed, borrowed from, and melodies that are given."""
