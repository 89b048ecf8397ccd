"""New cycles that meet the recording in its place again where an edit ends, so that what follows is as recorded.

What an edit adds or takes of a period is spread over the edit, by cents that are not heard: first over all of it, then
over its ends, where the pitch passes over anyway.  Of a long edit only the last moments take part, so that what is
edited later leaves what comes before as it is.  The ends of a stretched note do not bend: a note made short has nothing
else to be heard by, and what follows it has a new place anyway.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ....plan.time_map import TimeMap, unmoved
from ....signal.signal_tools import merged_ranges, runs, smoothstep
from ....signal.types import Floats
from .synthesis_marks import SynthesisMarks, place_marks

INSIDE_CENTS = 2.0  # by which all of an edit may be off
END_CENTS = 45.0  # by which its two ends may be, at the most, where nothing is stretched
OUTSIDE_S, WITHIN_S, WITHIN_SHARE = 0.042, 0.12, 0.2  # of an end before and after the edit begins, of an edit at most
LAST_S = 1.4  # of an edit that take part
_ROUNDS = 6
_CAREFUL = 0.7  # of what is left over that later rounds add
_CENT = np.log(2.0) / 1200.0


class _Edit(NamedTuple):
    """An edit up to mark `last`, which is untouched.

    By how many cents the cycle at each mark may be off anywhere, and at the ends, each with what that adds up to in
    cents times seconds; and whether the voice begins with it and all of it takes part.
    """

    last: int
    inside: tuple[Floats, float]
    ends: tuple[Floats, float]
    begins: bool

    @property
    def most(self) -> float:
        """What it can take, in cents times seconds."""
        return self.inside[1] + self.ends[1]


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
    beyond = np.zeros(len(edits), dtype=bool)  # what was once more than an edit can take
    for number in range(_ROUNDS if edits else 0):
        off = np.array([_off_at(placed, marks, moved, edit.last) for edit in edits]) / sample_rate
        stays = np.array([more and not edit.begins for more, edit in zip(beyond, edits, strict=True)])
        if (np.abs(off)[~stays] * sample_rate < 0.5).all():
            break
        asked += np.diff(off, prepend=0.0) / _CENT * (1.0 if number < 2 else _CAREFUL)
        beyond |= np.array([abs(wanted) > edit.most for wanted, edit in zip(asked, edits, strict=True)])
        placed = _placed(marks, ratio, sample_rate, edits, np.where(stays, 0.0, asked), beyond, fixed, moved)
    return placed


def _placed(
    marks: Floats, ratio: Floats, sample_rate: int, edits: list[_Edit], asked: Floats, beyond: NDArray[np.bool_],
    fixed: NDArray[np.bool_] | None, moved: TimeMap,
) -> SynthesisMarks:  # fmt: skip
    """The marks with what is asked of each edit spread over it, in cents times seconds."""
    bend, later = np.zeros(len(marks)), 0.0
    for edit, wanted, more in zip(edits, asked, beyond, strict=True):
        if not more:
            bend += _spread(edit, wanted)
        elif edit.begins:
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
            own = slice(*np.searchsorted(placed.origins, (begin, end)))
            end_cents = 0.0 if placed.stretched[own].any() else END_CENTS
            found.append(_edit(marks, first, last, sample_rate, end_cents))
    return found


def _edit(marks: Floats, first: int, last: int, sample_rate: int, end_cents: float) -> _Edit:
    since, until = (marks - marks[first]) / sample_rate, (marks[last] - marks) / sample_rate
    within = min(WITHIN_S, WITHIN_SHARE * float(since[last]))
    short = float(since[last]) <= LAST_S
    rising = smoothstep(until / OUTSIDE_S)
    if not short:
        rising = rising * smoothstep((LAST_S - until) / OUTSIDE_S)
    elif first:  # where the voice begins there is nothing before
        rising = rising * smoothstep(since / OUTSIDE_S)
    inside, ends = np.zeros(len(marks)), np.zeros(len(marks))
    inside[first:last] = rising[first:last]
    for away in (since, until) if short and first else (until,):
        ends = np.maximum(ends, smoothstep((OUTSIDE_S + within - away) / within))
    lengths = np.diff(marks, append=marks[-1]) / sample_rate
    inside, ends = INSIDE_CENTS * inside, end_cents * ends * inside
    return _Edit(last, (inside, float(inside @ lengths)), (ends, float(ends @ lengths)), short and first == 0)


def _off_at(placed: SynthesisMarks, marks: Floats, moved: TimeMap, last: int) -> float:
    """By how many samples the first untouched cycle from mark `last` on comes too late."""
    at = int(np.searchsorted(placed.sources, last))
    while at < len(placed.still) - 1 and not placed.still[at]:
        at += 1
    at = min(at, len(placed.still) - 1)
    return float(placed.positions[at] - moved.to_target(marks[placed.sources[at]]))


def _spread(edit: _Edit, asked: float) -> Floats:
    """Cents at each mark that add up to `asked` cents times seconds, as far as the edit can take them."""
    (inside, most_inside), (ends, most_at_ends) = edit.inside, edit.ends
    size = abs(asked)
    share = min(size / most_inside, 1.0) if most_inside else 0.0
    rest = min((size - share * most_inside) / most_at_ends, 1.0) if most_at_ends else 0.0
    return np.sign(asked) * (share * inside + rest * ends)
