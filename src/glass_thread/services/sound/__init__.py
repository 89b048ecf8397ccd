"""Samples of tracks: by plan and span, of versions and comps, and what may be worked out ahead."""
