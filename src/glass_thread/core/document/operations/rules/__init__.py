"""What each operation does to a content, one file a family."""
