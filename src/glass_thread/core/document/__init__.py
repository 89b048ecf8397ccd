"""What can be edited of a track, and the rules for it."""
