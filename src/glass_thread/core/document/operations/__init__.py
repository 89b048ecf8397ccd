"""Every edit operation, one file a family."""
