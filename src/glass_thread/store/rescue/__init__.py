"""Getting what can be had out of a database that is damaged."""
