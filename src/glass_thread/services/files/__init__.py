"""One sound file in, one out, for the command line."""
