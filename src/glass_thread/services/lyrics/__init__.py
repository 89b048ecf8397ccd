"""Words of tracks on their notes."""
