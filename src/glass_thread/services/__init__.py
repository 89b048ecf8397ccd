"""One use case per function: load, compute with no transaction open, save in one short transaction."""
