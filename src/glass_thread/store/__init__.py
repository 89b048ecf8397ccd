"""Songs, tracks, steps and tasks in SQLite; audio by content; analyses by content and parameters."""
