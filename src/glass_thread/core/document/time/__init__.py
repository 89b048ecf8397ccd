"""What gives way to what is moved in time."""
