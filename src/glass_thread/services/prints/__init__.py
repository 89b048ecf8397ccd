"""Fixed files of what sounds, and the hand-off folder they go to."""
