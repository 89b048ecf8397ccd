"""Which note of a lead each note of a follower sings along with, and which notes only one of them sings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..signal.types import HOP_S, Note
from .warping import Alignment

_SUNG_SHARE = 0.5  # of a note over which the other one sings too
_PACE = (0.4, 2.5)  # times as long as the follower's, within which a lead's stretch is the same word


@dataclass(frozen=True)
class Match:
    """A note of the follower, by id, with the moments of the lead, in seconds, at which it starts and ends there; and
    the lead's note that is sung along, by id, if there is one."""

    note_id: str
    start_s: float
    end_s: float
    lead_id: str | None


@dataclass(frozen=True)
class Matching:
    """Notes of both that belong together, and those that only one of them sings, by id."""

    pairs: tuple[Match, ...]
    alone: tuple[str, ...]
    lead_alone: tuple[str, ...]


def match_notes(
    follower: Sequence[Note], lead: Sequence[Note], alignment: Alignment, lead_voiced: NDArray[np.bool_],
    follower_voiced: NDArray[np.bool_],
) -> Matching:  # fmt: skip
    """Match notes in order of time; `alignment` is that of the follower on the lead, voicing is by analysis frame."""
    starts, ends = (np.array([getattr(note, side) for note in lead]) for side in ("start_s", "end_s"))
    pairs, alone = [], []
    for note in follower:
        frames = slice(round(note.start_s / HOP_S), round(note.end_s / HOP_S))
        start, end = alignment.at(note.start_s), alignment.at(note.end_s)
        there = np.round(alignment.lead_s[frames] / HOP_S).astype(int)
        inside = there[(there >= 0) & (there < len(lead_voiced))]
        sung = lead_voiced[inside].sum() / max(len(there), 1)
        pace = (end - start) / (note.end_s - note.start_s)
        if sung < _SUNG_SHARE or not _PACE[0] < pace < _PACE[1]:
            alone.append(note.id)
            continue
        along = np.minimum(ends, end) - np.maximum(starts, start)
        best = int(np.argmax(along)) if len(along) else -1
        pairs.append(Match(note.id, start, end, lead[best].id if best >= 0 and along[best] > 0.0 else None))
    return Matching(tuple(pairs), tuple(alone), _not_sung_along(lead, alignment, follower_voiced))


def _not_sung_along(lead: Sequence[Note], alignment: Alignment, voiced: NDArray[np.bool_]) -> tuple[str, ...]:
    """The lead's notes over most of which the follower is silent."""
    rising = np.maximum.accumulate(alignment.lead_s)
    found = []
    for note in lead:
        times = np.arange(note.start_s, note.end_s, HOP_S)
        there = np.round(np.interp(times, rising, np.arange(len(rising)))).astype(int) if len(rising) else times
        if not len(there) or voiced[np.clip(there.astype(int), 0, len(voiced) - 1)].mean() < _SUNG_SHARE:
            found.append(note.id)
    return tuple(found)
