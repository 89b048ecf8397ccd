"""What all level edits of a track do together."""

from __future__ import annotations

import numpy as np
import scipy.ndimage as ndi

from ..document.content import Content, event_frames
from ..signal.signal_tools import smoothstep
from ..signal.types import HOP_S, Floats
from ..signal.units import db_to_gain, gain_to_db
from .note_changes import LEVEL_RAMP_S, inside, level_change

AIR_RAMP_S, BREATH_RAMP_S, GAP_RAMP_S = 0.01, 0.045, 0.03
_GAP_RAMP = round(GAP_RAMP_S / HOP_S) + 1
SILENT_DB = -144.0  # of this change and less, nothing is left


def level_plan(content: Content, n_frames: int) -> Floats:
    """Level change in dB on the analysis grid, shape (n_frames,); exactly 0 where no level was changed.

    Notes never take voiceless air along; fades of air and gaps lie inside them.  `SILENT_DB` or less means silence.
    """
    notes = [edited.note for edited in content.notes.values()]
    total = level_change(notes, {key: edited.gesture for key, edited in content.notes.items()}, n_frames)
    if total.any():
        total *= _away_from_air(content, n_frames)
    for edited in content.air.values():
        if not edited.is_as_sung:
            ramp = BREATH_RAMP_S if edited.event.kind == "breath" else AIR_RAMP_S
            a, b = event_frames(edited.event, n_frames)
            total[a:b] += _faded(b - a, edited.level_db, edited.muted, ramp)
    for gap in content.gaps.values():
        a, b = event_frames(gap, n_frames)
        b = n_frames if b >= n_frames - 1 else b
        before, after = (_GAP_RAMP if at_end else 0 for at_end in (a == 0, b == n_frames))
        change = _faded(before + b - a + after, gap.level_db, gap.muted, GAP_RAMP_S)
        total[a:b] += change[before : before + b - a]  # no fade at the ends of the recording
    return np.maximum(total, SILENT_DB)


def air_share(content: Content, n_frames: int) -> Floats:
    """1 in frames of voiceless air, 0 elsewhere, shape (n_frames,): what is heard when one listens to air alone."""
    share = np.zeros(n_frames)
    for edited in content.air.values():
        if not edited.event.voiced:
            a, b = event_frames(edited.event, n_frames)
            share[a:b] = 1.0
    return share


def level_gain(level_db: Floats) -> Floats:
    """Factors for changes in dB."""
    return np.where(level_db <= SILENT_DB + 0.01, 0.0, db_to_gain(level_db))


def _faded(n: int, level_db: float, muted: bool, ramp_s: float) -> Floats:
    weight = inside(n, ramp_s)
    if not muted:
        return level_db * weight
    return np.where(weight >= 1.0, SILENT_DB, gain_to_db(1.0 - weight))


def _away_from_air(content: Content, n_frames: int) -> Floats:
    """0 in voiceless air, 1 away from it, with ramps outside of it."""
    free = np.ones(n_frames, dtype=bool)
    for edited in content.air.values():
        a, b = event_frames(edited.event, n_frames)
        if not edited.event.voiced:
            free[a:b] = False
    if free.all():
        return np.ones(n_frames)
    return smoothstep(ndi.distance_transform_edt(free) / (LEVEL_RAMP_S / HOP_S))
