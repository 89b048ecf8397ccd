"""What all level edits of a track do together."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import scipy

from ..document.content import EditedAir, Gap, event_frames
from ..document.gestures import note_frames
from ..document.items.level_stretches import LevelStretch
from ..document.notes import EditedNote
from ..signal.ramps import LEVEL_RAMP_S, inside
from ..signal.signal_tools import smoothstep
from ..signal.types import HOP_S, Floats
from ..signal.units import db_to_gain, gain_to_db
from .pitch.vibrato import added_vibrato

AIR_RAMP_S, BREATH_RAMP_S, GAP_RAMP_S = 0.01, 0.045, 0.03
_GAP_RAMP = round(GAP_RAMP_S / HOP_S) + 1
RAMP_FRAMES = round(LEVEL_RAMP_S / HOP_S) + 1
SILENT_DB = -144.0  # of this change and less, nothing is left


def fill_level(
    total: Floats, window: tuple[int, int], notes: Iterable[EditedNote], air: Iterable[EditedAir], gaps: Iterable[Gap],
    stretches: Iterable[LevelStretch] = (),
) -> None:  # fmt: skip
    """Write the level change in dB over the frames of `window` into `total`, shape (n_frames,).

    All notes, events, gaps and level stretches that reach into the window or to within `RAMP_FRAMES` of it must be
    given.  Notes never take voiceless air along; fades of air, gaps and stretches lie inside them.  `SILENT_DB` or less
    means silence.
    """
    n = len(total)
    a, b = window
    change = np.zeros(b - a)
    for edited in notes:
        _add(change, window, note_frames(edited.note, n), _note_level(edited, n))
    air = list(air)
    if change.any():
        change *= _away_from_air(air, window, n)
    for event in air:
        if not event.is_as_sung:
            ramp = BREATH_RAMP_S if event.event.kind == "breath" else AIR_RAMP_S
            first, last = event_frames(event.event, n)
            _add(change, window, (first, last), _faded(last - first, event.level_db, event.muted, ramp))
    for gap in gaps:
        _add(change, window, *_gap_change(gap, n))
    for one in stretches:
        first, last = (min(n, round(at / HOP_S)) for at in one.span_s)
        _add(change, window, (first, last), _faded(last - first, one.level_db, one.muted, one.fade_ms / 1000.0))
    total[a:b] = np.maximum(change, SILENT_DB)


def _note_level(edited: EditedNote, n_frames: int) -> Floats | None:
    """A note's own change; ramps lie inside the note, over at most 30 ms at each edge."""
    gesture = edited.gesture
    a, b = note_frames(edited.note, n_frames)
    swelling = gesture.added_level and gesture.added_extent
    if not gesture.level_db and not swelling:
        return None
    change = gesture.level_db * inside(b - a)
    if swelling:
        change += gesture.added_level * added_vibrato(b - a, gesture) * inside(b - a)
    return change


def _gap_change(gap: Gap, n_frames: int) -> tuple[tuple[int, int], Floats]:
    """Frames and change of a gap, without a fade at the ends of the recording."""
    a, b = event_frames(gap, n_frames)
    b = n_frames if b >= n_frames - 1 else b
    before, after = (_GAP_RAMP if at_end else 0 for at_end in (a == 0, b == n_frames))
    change = _faded(before + b - a + after, gap.level_db, gap.muted, GAP_RAMP_S)
    return (a, b), change[before : before + b - a]


def _add(change: Floats, window: tuple[int, int], frames: tuple[int, int], values: Floats | None) -> None:
    """Add the part of `values`, which lie on `frames`, that lies in the window."""
    low, high = max(window[0], frames[0]), min(window[1], frames[1])
    if values is not None and low < high:
        change[low - window[0] : high - window[0]] += values[low - frames[0] : high - frames[0]]


def air_share(air: Iterable[EditedAir], window: tuple[int, int], n_frames: int) -> Floats:
    """1 in frames of voiceless air, 0 elsewhere, over a window: what is heard when one listens to air alone."""
    share = np.zeros(window[1] - window[0])
    for edited in air:
        if not edited.event.voiced:
            a, b = event_frames(edited.event, n_frames)
            share[max(a - window[0], 0) : max(b - window[0], 0)] = 1.0
    return share


def level_gain(level_db: Floats) -> Floats:
    """Factors for changes in dB."""
    return np.where(level_db <= SILENT_DB + 0.01, 0.0, db_to_gain(level_db))


def _faded(n: int, level_db: float, muted: bool, ramp_s: float) -> Floats:
    weight = inside(n, ramp_s)
    if not muted:
        return level_db * weight
    return np.where(weight >= 1.0, SILENT_DB, gain_to_db(1.0 - weight))


def _away_from_air(air: Iterable[EditedAir], window: tuple[int, int], n_frames: int) -> Floats:
    """0 in voiceless air, 1 away from it, with ramps outside of it, over the window."""
    wide = (max(0, window[0] - RAMP_FRAMES), min(n_frames, window[1] + RAMP_FRAMES))
    free = air_share(air, wide, n_frames) == 0.0
    inner = slice(window[0] - wide[0], window[1] - wide[0])
    if free.all():
        return np.ones(window[1] - window[0])
    return smoothstep(scipy.ndimage.distance_transform_edt(free) / (LEVEL_RAMP_S / HOP_S))[inner]
