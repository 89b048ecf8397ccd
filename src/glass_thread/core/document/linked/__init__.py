"""What is linked: what a link leads to, and how what it gave is told from what a hand changed."""
