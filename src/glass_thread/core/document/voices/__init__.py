"""One voice made of another: which notes a melody gives it, and what it leaves out."""
