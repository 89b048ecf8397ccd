"""WAV files: their samples, time stamps and cue points."""
