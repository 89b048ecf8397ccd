"""What is laid over a take or leads elsewhere: glazes, level stretches, borrows, choices of a comp, links."""
