"""How high a voice is, and how sure that is."""
