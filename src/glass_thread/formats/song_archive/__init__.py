"""A song in one file: a zip of JSON lines, recordings, analyses and prints, as docs/song-archive.md describes it."""
