"""Bring the starts of notes to a grid of moments; the beat is heard where the vowel starts.

Perceptual centres: J. Morton, S. Marcus, C. Frankish, "Perceptual centers (P-centers)", Psychological Review 83, 1976
(from memory): syllables sound evenly spaced when their vowels' beginnings are, not when their consonants' are.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ....signal.errors import ParameterError
from ....signal.types import Analysis, Floats
from ...content import Content, ContentChange
from ...notes import EditedNote, selected
from ...time.give_way import give_way
from ...time.stretches import Stretch, track_place
from .moving import moved_where_it_fits
from .time_edits import shifted


def quantise(
    content: Content, lines: Floats, analysis: Analysis, *, note_ids: Sequence[str], strength: float = 1.0,
    beyond_ms: float = 0.0, ends: bool = False, **_grid: object,
) -> ContentChange:  # fmt: skip
    """Move notes so that their vowels start at the nearest of `lines`, rising moments of the track in seconds.

    A note's start moves by `strength` of the way.  Its end goes along when a rest follows, or with `ends` to its own
    nearest line; where the next note follows soon it goes with that one's start, so that what is between keeps its
    length and the vowel gives way.  Notes no further off than `beyond_ms`, notes that would cross a pin, and those that
    nothing gives way to are left.
    """
    chosen = selected(content.notes, note_ids)
    if len(lines) == 0:
        raise ParameterError("There is no line of this grid near the selection.")
    before = give_way(analysis, content)
    stretches = before.stretches
    moved = {}
    for edited in chosen:
        after = _brought(content, stretches, edited, lines, strength, beyond_ms / 1000.0, ends)
        if after is not None and not edited.leave_as_sung:
            moved[edited.note.id] = after
    return moved_where_it_fits(content, analysis, moved, before)


def _brought(
    content: Content, stretches: Sequence[Stretch], edited: EditedNote, lines: Floats, strength: float, beyond_s: float,
    ends: bool,
) -> EditedNote | None:  # fmt: skip
    """A note with its start brought to its line; None when it stays."""
    start, end = (track_place(stretches, at) for at in edited.span_s)
    off = nearest(lines, start) - start
    by = strength * off
    walls = [pin.track_s for pin in content.pins.values()]
    if abs(off) <= beyond_s or any(min(start, start + by) <= wall <= max(start, start + by) for wall in walls):
        return None
    end_by = strength * (nearest(lines, end) - end) if ends else by
    if end + end_by - start - by < 0.25 * (edited.note.end_s - edited.note.start_s):
        end_by = by
    gesture = edited.gesture
    return shifted(edited, gesture.start_shift_ms + 1000.0 * by, gesture.end_shift_ms + 1000.0 * end_by)


def nearest(lines: Floats, at_s: float) -> float:
    """The line nearest to a moment."""
    i = int(np.searchsorted(lines, at_s))
    return float(min(lines[max(0, i - 1) : i + 1], key=lambda line: abs(line - at_s)))
