"""What a song sounds like: its tempo, its keys, its chords."""
