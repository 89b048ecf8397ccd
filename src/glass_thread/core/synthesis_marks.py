"""Where the cycles go: synthesis marks from analysis marks and the wanted pitch ratio."""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray

from .types import Floats


@dataclass(frozen=True)
class SynthesisMarks:
    """New marks of one voiced run.

    Attributes
    ----------
    positions : ndarray, shape (m,)
        Sample positions of the new marks.
    sources : ndarray of int, shape (m,)
        Analysis mark that each takes its sound from.
    ratio : ndarray, shape (m,)
        New over old frequency of the cycle that starts at each mark; exactly 1 where nothing changes.
    """

    positions: Floats
    sources: NDArray[np.int64]
    ratio: Floats


@numba.njit(cache=True)
def _between(marks, values, cycle, time):  # pragma: no cover - compiled
    """Value at `time` on the line through the middles of the cycles around `cycle`."""
    m = len(marks)
    middle = 0.5 * (marks[cycle] + marks[cycle + 1])
    other = cycle + 1 if time >= middle else cycle - 1
    if other < 0 or other > m - 2:
        return values[cycle]
    away = 0.5 * (marks[other] + marks[other + 1])
    share = (time - middle) / (away - middle)
    return values[cycle] + share * (values[other] - values[cycle])


@numba.njit(cache=True)
def _walk(marks, ratio_at, positions, sources, ratios):  # pragma: no cover - compiled
    """Step from mark to mark; the measured period over the ratio, both read at the middle of the new cycle."""
    m = len(marks)
    periods = np.diff(marks)
    here = marks[0]
    source = 0
    cycle = 0
    count = 0
    was_moving = False
    while count < len(positions):
        while source + 1 < m and abs(marks[source + 1] - here) < abs(marks[source] - here):
            source += 1
        r = ratio_at[source]
        if r == 1.0 and was_moving:
            here = marks[source] + np.round(here - marks[source])  # whole samples, so that a copy is exact
        was_moving = r != 1.0
        positions[count] = here
        sources[count] = source
        ratios[count] = r
        count += 1
        period = periods[min(source, m - 2)]
        if r == 1.0:
            here += period
        else:
            middle = here + 0.5 * period / r
            while cycle + 2 < m and marks[cycle + 1] <= middle:
                cycle += 1
            here += _between(marks, periods, cycle, middle) / _between(marks, ratio_at, cycle, middle)
        if here > marks[m - 1] + 1e-6:
            break
    return count


def place_marks(marks: Floats, ratio: Floats) -> SynthesisMarks:
    """New marks for analysis `marks` (samples) and the wanted frequency `ratio` at each, both shape (m,)."""
    room = int(np.ceil(len(marks) * max(1.0, float(ratio.max())))) + 8
    positions, ratios = np.empty(room), np.empty(room)
    sources = np.empty(room, np.int64)
    count = _walk(marks, ratio, positions, sources, ratios)
    return SynthesisMarks(positions[:count], sources[:count], ratios[:count])
