"""The stand-in for a recording host: shows a hand-off folder on a timeline and proves what prints changed."""
