"""What is found in a recording: pitch, notes, air, key."""
