"""How well changed sound keeps to the ideal one."""
