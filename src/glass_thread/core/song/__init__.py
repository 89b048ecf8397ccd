"""What the song around a voice sounds like: harmony, onsets and tempo of a recording."""
