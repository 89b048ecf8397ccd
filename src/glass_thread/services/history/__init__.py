"""Steps and versions: edits, undo, comps, previews."""
