"""How well pitch, notes, air and habits are found."""
