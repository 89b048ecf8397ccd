"""A voiced run: its cycles, what they are made of, where they go, and their new sound."""
