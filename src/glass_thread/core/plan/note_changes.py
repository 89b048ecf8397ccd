"""What the gestures of notes do to level and vocal tract over the whole track."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ..document.gestures import AS_SUNG, Gesture, added_vibrato, note_frames
from ..signal.signal_tools import smoothstep
from ..signal.types import HOP_S, Floats, Note

LEVEL_RAMP_S = 0.03


def level_change(notes: Sequence[Note], gestures: Mapping[str, Gesture], n_frames: int) -> Floats:
    """Level change in dB on the analysis grid, shape (n_frames,); exactly 0 outside notes whose level is changed.

    Ramps lie inside the note, over at most 30 ms at each edge.
    """
    total = np.zeros(n_frames)
    for note in notes:
        gesture = gestures.get(note.id, AS_SUNG)
        a, b = note_frames(note, n_frames)
        if gesture.level_db:
            total[a:b] = gesture.level_db * inside(b - a)
        if gesture.added_level and gesture.added_extent:
            total[a:b] += gesture.added_level * added_vibrato(b - a, gesture) * inside(b - a)
    return total


def formant_change(notes: Sequence[Note], gestures: Mapping[str, Gesture], n_frames: int) -> Floats:
    """Shift of the vocal tract's resonances in semitones, shape (n_frames,); exactly 0 outside shifted notes.

    Neighbours with the same shift are not ramped between.
    """
    total = np.zeros(n_frames)
    before: tuple[int, float] = (-1, 0.0)
    for note in sorted(notes, key=lambda note: note.start_s):
        shift = gestures.get(note.id, AS_SUNG).formant_shift
        a, b = note_frames(note, n_frames)
        if shift:
            total[a:b] = shift * inside(b - a)
        if shift and before == (a, shift):
            reach = int(LEVEL_RAMP_S / HOP_S) + 1
            total[a - reach : a + reach] = shift
        before = (b, shift)
    return total


def inside(n: int, ramp_s: float = LEVEL_RAMP_S) -> Floats:
    """Weight over `n` frames, exactly 0 at both ends: smooth ramps of at most `ramp_s` and a third of it."""
    ramp = max(1.0, min(ramp_s / HOP_S, n / 3))
    position = np.arange(n)
    return smoothstep(position / ramp) * smoothstep((n - 1 - position) / ramp)
