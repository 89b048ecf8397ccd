"""What all edits of a moment ask of a track, on the analysis grid."""
