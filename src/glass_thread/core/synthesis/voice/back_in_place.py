"""New cycles that meet the recording in its place again where an edit ends, so that what follows is as recorded.

What an edit adds or takes of a period is spread over the edit, by cents that are not heard: first over all of it, then
over its ends, where the pitch passes over anyway.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ...plan.time_map import TimeMap, unmoved
from ...signal.signal_tools import merged_ranges, runs, smoothstep
from ...signal.types import Floats
from .synthesis_marks import SynthesisMarks, place_marks

INSIDE_CENTS = 2.5  # by which all of an edit may be off
END_CENTS = 40.0  # by which its two ends may be, at the most
OUTSIDE_S, WITHIN_S, WITHIN_SHARE = 0.045, 0.12, 0.2  # of an end before and after the edit begins, of an edit at most
_ROUNDS = 6
_CAREFUL = 0.7  # of what is left over that later rounds add
_CENT = np.log(2.0) / 1200.0


class _Edit(NamedTuple):
    """Marks [first, last) that move, followed by others; by how many cents each may be off at all, and at the ends."""

    first: int
    last: int
    inside: Floats
    ends: Floats


def place_back(
    marks: Floats, ratio: Floats, sample_rate: int, *, fixed: NDArray[np.bool_] | None = None,
    time_map: TimeMap | None = None,
) -> SynthesisMarks:  # fmt: skip
    """New marks of one voiced run as `place_marks`, that come back to the old ones after each edit.

    What is more than that allows is left: what follows is displaced by up to half a cycle, but for an edit with which
    the voice begins, which then begins so much sooner or later.
    """
    moved = time_map or unmoved()
    placed = place_marks(marks, ratio, fixed=fixed, time_map=moved)
    edits = _edits(marks, placed, sample_rate)
    asked = np.zeros(len(edits))  # cents times seconds
    for number in range(_ROUNDS if edits else 0):
        off = np.array([_off_at(placed, marks, moved, edit.last) for edit in edits]) / sample_rate
        own = [_spread(edit, marks, sample_rate, wanted) for edit, wanted in zip(edits, asked, strict=True)]
        stays = np.array([one is None and edit.first > 0 for one, edit in zip(own, edits, strict=True)])
        if (np.abs(off)[~stays] * sample_rate < 0.5).all():
            break
        asked += np.diff(off, prepend=0.0) / _CENT * (1.0 if number < 2 else _CAREFUL)
        placed = _placed(marks, ratio, sample_rate, edits, asked, fixed, moved)
    return placed


def _placed(
    marks: Floats, ratio: Floats, sample_rate: int, edits: list[_Edit], asked: Floats,
    fixed: NDArray[np.bool_] | None, moved: TimeMap,
) -> SynthesisMarks:  # fmt: skip
    """The marks with what is asked of each edit spread over it, in cents times seconds."""
    bend, later = np.zeros(len(marks)), 0.0
    for edit, wanted in zip(edits, asked, strict=True):
        own = _spread(edit, marks, sample_rate, wanted)
        if own is not None:
            bend += own
        elif edit.first == 0:
            later = -wanted * _CENT * sample_rate
    bent = ratio * np.exp(bend * _CENT)
    bent = np.where(np.abs(bent - 1.0) < 1e-7, 1.0, bent)
    return place_marks(marks, bent, fixed=fixed, time_map=moved, later=later)


def _edits(marks: Floats, placed: SynthesisMarks, sample_rate: int) -> list[_Edit]:
    """The edits of a run after which something of it is untouched."""
    reach = round(OUTSIDE_S * sample_rate)
    moving = [(float(placed.origins[a]) - reach, float(placed.origins[b - 1]) + reach)
              for a, b in runs((placed.ratio != 1.0) | placed.stretched)]  # fmt: skip
    found = []
    for begin, end in merged_ranges(moving):
        first, last = int(np.searchsorted(marks, begin)), int(np.searchsorted(marks, end, side="right"))
        if last < len(marks) - 2:
            found.append(_edit(marks, first, last, sample_rate))
    return found


def _edit(marks: Floats, first: int, last: int, sample_rate: int) -> _Edit:
    since, until = (marks - marks[first]) / sample_rate, (marks[last] - marks) / sample_rate
    within = min(WITHIN_S, WITHIN_SHARE * float(since[last]))
    sides = [(since if first else since + OUTSIDE_S), until]  # where the voice begins there is nothing before
    rising = [smoothstep(away / OUTSIDE_S) for away in sides]
    inside, ends = np.zeros(len(marks)), np.zeros(len(marks))
    inside[first:last] = (rising[0] * rising[1])[first:last]
    for away, rise in list(zip(sides, rising, strict=True))[0 if first else 1 :]:
        ends = np.maximum(ends, rise * smoothstep((OUTSIDE_S + within - away) / within))
    return _Edit(first, last, INSIDE_CENTS * inside, END_CENTS * ends * (inside > 0.0))


def _off_at(placed: SynthesisMarks, marks: Floats, moved: TimeMap, last: int) -> float:
    """By how many samples the first untouched cycle from mark `last` on comes too late."""
    at = int(np.searchsorted(placed.sources, last))
    while at < len(placed.still) - 1 and not placed.still[at]:
        at += 1
    at = min(at, len(placed.still) - 1)
    return float(placed.positions[at] - moved.to_target(marks[placed.sources[at]]))


def _spread(edit: _Edit, marks: Floats, sample_rate: int, asked: float) -> Floats | None:
    """Cents at each mark that add up to `asked` cents times seconds; None where that is more than may be."""
    lengths = np.diff(marks, append=marks[-1]) / sample_rate
    inside, ends = float(edit.inside @ lengths), float(edit.ends @ lengths)
    size = abs(asked)
    if size > inside + ends:
        return None
    share = min(size / inside, 1.0) if inside else 0.0
    rest = (size - share * inside) / ends if ends else 0.0
    return np.sign(asked) * (share * edit.inside + rest * edit.ends)
