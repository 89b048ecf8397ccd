"""How sure each cut between two notes is: by how much worse one note would fit what was sung there.

The measure is that of the search for cuts itself (`segmentation`): the misfit that a cut saves, less what the cut
costs.  So the cuts that “More or fewer notes” gives up first are the least sure ones.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ...signal.types import HOP_S, Floats, Note
from .segmentation import CUT_COST_FRAMES, DIP_GAIN, misfit, possible_cuts, tolerance, vibrato_midline

TOUCHING_FRAMES = 2
NEAR_FRAMES = 4  # how far a possible cut may lie from one made by hand
CLEAR_DIP = 0.5  # from here on the level alone makes the border
HAND_COST = 10.0  # of a cut where the pitch takes no step


@dataclass(frozen=True)
class Cut:
    """A border between two notes that touch: where (s), the notes, and how sure it is, 0 to 1."""

    at_s: float
    before: str
    after: str
    confidence: float


def judge_cuts(notes: Sequence[Note], midi: Floats, level_db: Floats) -> tuple[Cut, ...]:
    """Every border between notes that touch, in order of time; `midi` and `level_db` of shape (n,)."""
    ordered = sorted(notes, key=lambda note: note.start_s)
    found = []
    for one, other in itertools.pairwise(ordered):
        a, b, c, d = (round(t / HOP_S) for t in (one.start_s, one.end_s, other.start_s, other.end_s))
        if c - b <= TOUCHING_FRAMES and d <= len(midi):
            confidence = _confidence(midi[a:d], level_db[a:d], c - a)
            found.append(Cut(other.start_s, one.id, other.id, confidence))
    return tuple(found)


def _confidence(midi: Floats, level_db: Floats, cut: int) -> float:
    known = np.isfinite(midi)
    if not known[:cut].any() or not known[cut:].any():
        return 1.0  # one of the two has no pitch: nothing to be joined
    n = len(midi)
    filled = np.interp(np.arange(n), np.flatnonzero(known), midi[known])
    cents = np.ascontiguousarray(vibrato_midline(100.0 * filled))
    whole, left, right = (misfit(cents, *span, tolerance(cents)) for span in ((0, n), (0, cut), (cut, n)))
    dip = _dip(level_db, cut)
    saved = whole - left - right + DIP_GAIN * dip - (0.0 if dip > CLEAR_DIP else _price(cents, cut))
    return float(max(0.0, saved) / (max(0.0, saved) + CUT_COST_FRAMES))


def _price(cents: Floats, cut: int) -> float:
    """What the way across costs beyond the fixed price of a cut."""
    places, prices = possible_cuts(cents)
    near = np.flatnonzero(np.abs(places - cut) <= NEAR_FRAMES)
    return float(prices[near].min()) if len(near) else HAND_COST


def _dip(level_db: Floats, cut: int) -> float:
    """How much the level falls between the two, as a share of what makes a repeated note, up to 3."""
    around = level_db[max(0, cut - 6) : cut + 22]
    fall = min(level_db[:cut].max(), level_db[cut:].max()) - around.min()
    return float(np.clip(fall / 6.5 - 0.5, 0.0, 3.0))
