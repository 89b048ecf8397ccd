"""What the gestures of notes do to the vocal tract."""

from __future__ import annotations

from collections.abc import Sequence

from ..document.gestures import note_frames
from ..document.notes import EditedNote
from ..signal.ramps import LEVEL_RAMP_S, inside
from ..signal.types import HOP_S, Floats


def fill_formant(total: Floats, ordered: Sequence[EditedNote]) -> None:
    """Write the shift of the resonances in semitones of some notes into `total`, shape (n_frames,), which is 0 there.

    Notes in order of time; neighbours with the same shift are not ramped between.
    """
    before: tuple[int, float] = (-1, 0.0)
    for edited in ordered:
        shift = edited.gesture.formant_shift
        a, b = note_frames(edited.note, len(total))
        if shift:
            total[a:b] = shift * inside(b - a)
        if shift and before == (a, shift):
            reach = int(LEVEL_RAMP_S / HOP_S) + 1
            total[a - reach : a + reach] = shift
        before = (b, shift)
