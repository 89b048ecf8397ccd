"""The melody and the notes in open formats of notation and of speech research."""
