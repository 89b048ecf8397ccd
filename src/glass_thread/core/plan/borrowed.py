"""What is found in a recording in places of which another one is heard."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from ..document.content import as_found
from ..document.items.borrows import Borrow, in_layers
from ..document.time.give_way import Anchor, Giving
from ..signal.types import HOP_S, Analysis, Floats
from ..song.keys import make_tuning, one_key
from .plan import Plan, build_plan

_ANY = one_key(make_tuning(0, "chromatic"))  # nothing is pulled anywhere


def with_borrows(analysis: Analysis, borrows: Sequence[Borrow], found: Mapping[str, Analysis]) -> Analysis:
    """An analysis with what was `found` in the borrowed recordings, by analysis id, laid into its curves.

    Notes and air stay those of the recording: what is borrowed brings its own into the content.
    """
    if not borrows:
        return analysis
    contour = analysis.contour
    midi, confidence, level, high = (
        values.copy() for values in (contour.midi, contour.confidence, analysis.level_db, analysis.high_db)
    )
    outline = analysis.outline.copy()
    for borrow in in_layers(borrows):
        other = found[borrow.analysis]
        first, last = (min(max(round(at / HOP_S), 0), len(midi)) for at in (borrow.start_s, borrow.end_s))
        frames = borrow.moments_at(np.arange(first, last) * HOP_S) / HOP_S
        nearest = np.clip(np.round(frames).astype(int), 0, len(other.contour.midi) - 1)
        midi[first:last] = _between(other.contour.midi, frames)
        curves = (confidence, other.contour.confidence), (level, other.level_db), (high, other.high_db)
        for mine, theirs in (*curves, (outline, other.outline)):
            if len(mine) and len(theirs):
                mine[first:last] = theirs[np.minimum(nearest, len(theirs) - 1)]
    heard = replace(contour, midi=midi, confidence=confidence)
    return replace(
        analysis, contour=heard, level_db=level, high_db=high, outline=outline, recorded=analysis.as_recorded
    )


def _between(midi: Floats, frames: Floats) -> Floats:
    """Pitch at fractional frames; unvoiced where the nearest frame is."""
    below = np.clip(np.floor(frames + 1e-6).astype(int), 0, len(midi) - 1)
    above = np.minimum(below + 1, len(midi) - 1)
    share = np.clip(frames - below, 0.0, 1.0)
    near = np.where(share < 0.5, midi[below], midi[above])
    line = np.where(share < 1e-6, near, midi[below] + share * (midi[above] - midi[below]))
    return np.where(np.isfinite(line), line, near)


def as_sung_plan(analysis: Analysis) -> Plan:
    """The plan by which a recording sounds as it was sung."""
    return build_plan(analysis, as_found(analysis), _ANY)


def lending_plan(as_sung: Plan, borrow: Borrow) -> Plan:
    """The plan by which a recording sounds that is borrowed: as sung, but for what is longer or shorter here."""
    end_s = HOP_S * len(as_sung.correction)
    ends = Anchor(0.0, 0.0), Anchor(end_s, end_s)
    return replace(as_sung, giving=Giving({ends: (borrow.stretches, 0.0)})) if borrow.stretches else as_sung
