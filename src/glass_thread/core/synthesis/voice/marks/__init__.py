"""Where cycles lie, and where they go."""
