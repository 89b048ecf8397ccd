"""Which moments of two performances are the same."""
