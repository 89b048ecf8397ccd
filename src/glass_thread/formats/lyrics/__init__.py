"""Files that hold what is sung: plain text, timed lyrics, the lyric events of MIDI files."""
