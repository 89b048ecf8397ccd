"""Sibilants that stand out against the track's typical one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..signal.types import Floats
from .content import Content, EditedAir
from .notes import EditedNote

AROUND_S = 1.5
HARSH_OVER_DB = 6.0  # over the typical sibilant of the track
# What may count as typical, and what does with too few to tell (common practice, no source).
TYPICAL_RANGE_DB, FEWEST_TYPICAL, USUAL_STAND_OUT_DB = (-18.0, -6.0), 3, -12.0


def vowel_levels(notes: Sequence[EditedNote], at_s: Floats) -> Floats:
    """Level in dBFS of the notes within 1.5 s of each time, weighted by length; of the nearest when none is so near.

    `at_s` has shape (n,), in seconds; there must be a note, and notes are in order of time and do not overlap.
    """
    start, end = (np.array([getattr(e.note, side) for e in notes]) for side in ("start_s", "end_s"))
    power = 10.0 ** (np.array([e.note.level_db + e.gesture.level_db for e in notes]) / 10.0)
    first = np.searchsorted(end, at_s - AROUND_S)
    last = np.searchsorted(start, at_s + AROUND_S, side="right")
    alone = np.flatnonzero(first >= last)
    if len(alone):
        after = np.clip(first[alone], 0, len(start) - 1)
        before = np.maximum(after - 1, 0)
        nearer = np.where(start[after] - at_s[alone] < at_s[alone] - end[before], after, before)
        nearer = np.where(first[alone] >= len(start), len(start) - 1, nearer)
        first[alone], last[alone] = nearer, nearer + 1
    length = end - start
    total, weight = (np.concatenate(([0.0], np.cumsum(v))) for v in (length * power, length))
    return 10.0 * np.log10(np.maximum(total[last] - total[first], 1e-18) / (weight[last] - weight[first]))


def stand_out(content: Content) -> dict[str, float]:
    """How far each sounding sibilant's level above 5 kHz lies over the vowels around it, in dB, as it will sound."""
    heard = {i: e for i, e in content.air.items() if e.event.kind == "sibilant" and not e.muted}
    if not content.notes or not heard:
        return {}
    middles = np.array([(e.event.start_s + e.event.end_s) / 2 for e in heard.values()])
    around = vowel_levels(list(content.notes.values()), middles)
    high = np.array([e.event.high_db + e.level_db for e in heard.values()])
    return dict(zip(heard, (high - around).tolist(), strict=True))


def typical_stand_out(content: Content) -> float:
    """What is usual for the track's sibilants as sung, in dB over the vowels around them: their lower quartile.

    Harsh ones may be the majority, so the quartile is taken, and held within what is sung at all.
    """
    as_sung = replace(content, air={i: EditedAir(e.event) for i, e in content.air.items()})
    found = list(stand_out(as_sung).values())
    if len(found) < FEWEST_TYPICAL:
        return USUAL_STAND_OUT_DB
    return float(np.clip(np.percentile(found, 25), *TYPICAL_RANGE_DB))


def harsh(content: Content) -> dict[str, float]:
    """Sibilants that stand out, with the dB by which they lie over the typical one."""
    typical = typical_stand_out(content)
    return {i: over - typical for i, over in stand_out(content).items() if over - typical > HARSH_OVER_DB}
