"""What an engineer waits for."""
