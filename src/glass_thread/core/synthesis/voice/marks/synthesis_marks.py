"""Where the cycles go: synthesis marks from analysis marks and the wanted pitch ratio."""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray

from ....plan.time_map import TimeMap, unmoved
from ....signal.types import Floats

NEAR_SAMPLES = 1.5  # as near to its place a cycle is put onto it: less than the cycles of any voice differ by


@dataclass(frozen=True)
class SynthesisMarks:
    """New marks of one voiced run.

    Attributes
    ----------
    positions : ndarray, shape (m,)
        Sample positions of the new marks.
    sources : ndarray of int, shape (m,)
        Analysis mark that each takes its sound from.
    origins : ndarray, shape (m,)
        Source sample position that each comes from; the same as `positions` while time is not edited.
    ratio : ndarray, shape (m,)
        New over old frequency of the cycle that starts at each mark.
    still : ndarray of bool, shape (m,)
        True where neither pitch nor time changes: the sound is a copy of the source.
    stretched : ndarray of bool, shape (m,)
        True where time is stretched.
    """

    positions: Floats
    sources: NDArray[np.int64]
    origins: Floats
    ratio: Floats
    still: NDArray[np.bool_]
    stretched: NDArray[np.bool_]


@numba.njit(cache=True, nogil=True)
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


@numba.njit(cache=True, nogil=True)
def _origin(map_source, map_target, position):  # pragma: no cover - compiled
    """Source position of a target position, and whether the piece it lies in is stretched."""
    i, after_it = 0, len(map_target) - 1
    while after_it - i > 1:  # numba takes half a second over np.searchsorted
        middle = (i + after_it) // 2
        if map_target[middle] <= position:
            i = middle
        else:
            after_it = middle
    before, after = map_source[i + 1] - map_source[i], map_target[i + 1] - map_target[i]
    if before == after:
        return position - map_target[i] + map_source[i], False
    return map_source[i] + (position - map_target[i]) * before / after, True


@numba.njit(cache=True, nogil=True)
def _walk(marks, periods, ratio_at, fixed, map_source, map_target, start, stop, out, sources, still, held):
    """Step from mark to mark; the measured period over the ratio, both read at the middle of the new cycle.

    Rows of `out`: positions, origins, ratios. Compiled, and numba takes seconds over np.diff.
    """
    m = len(marks)
    here = start
    source = 0
    cycle = 0
    count = 0
    was_moving = False
    while count < len(sources):
        origin, stretched = _origin(map_source, map_target, here)
        while source + 1 < m and abs(marks[source + 1] - origin) < abs(marks[source] - origin):
            source += 1
        r = ratio_at[source]
        calm = r == 1.0 and not stretched
        if calm and fixed[source] and was_moving:
            off = origin - marks[source]
            if abs(off) <= NEAR_SAMPLES:
                here -= off
            here = marks[source] + np.round(here - marks[source])  # whole samples, so that a copy is exact
            origin, stretched = _origin(map_source, map_target, here)
        was_moving = not (calm and fixed[source])
        out[0, count] = here
        out[1, count] = origin
        out[2, count] = r
        sources[count] = source
        still[count] = calm and fixed[source]
        held[count] = stretched
        count += 1
        period = periods[min(source, m - 2)]
        if calm:
            here += period
        else:
            middle, _ = _origin(map_source, map_target, here + 0.5 * period / r)
            while cycle + 2 < m and marks[cycle + 1] <= middle:
                cycle += 1
            here += _between(marks, periods, cycle, middle) / _between(marks, ratio_at, cycle, middle)
        if here > stop + 1e-6:
            break
    return count


def place_marks(
    marks: Floats, ratio: Floats, *, fixed: NDArray[np.bool_] | None = None, time_map: TimeMap | None = None,
    later: float = 0.0,
) -> SynthesisMarks:  # fmt: skip
    """New marks for one voiced run.

    Parameters
    ----------
    marks : ndarray, shape (m,)
        Analysis marks in samples.
    ratio : ndarray, shape (m,)
        Wanted over sung frequency at each.
    fixed : ndarray of bool, shape (m,), optional
        False where the sound changes though the pitch may not (a formant shift).
    time_map : TimeMap, optional
        Where source samples go; not at all unless given.
    later : float
        Samples by which the first mark is put later.
    """
    moved = time_map or unmoved()
    start, stop = moved.to_target(marks[0]) + later, moved.to_target(marks[-1])
    growth = max(1.0, (stop - start) / (marks[-1] - marks[0]))
    room = int(np.ceil(len(marks) * growth * max(1.0, float(ratio.max())))) + 16
    out = np.empty((3, room))
    sources, still, held = np.empty(room, np.int64), np.empty(room, np.bool_), np.empty(room, np.bool_)
    free = np.ones(len(marks), dtype=bool) if fixed is None else fixed
    periods = np.diff(marks)
    count = _walk(marks, periods, ratio, free, moved.source, moved.target, start, stop, out, sources, still, held)
    return SynthesisMarks(out[0, :count], sources[:count], out[1, :count], out[2, :count], still[:count], held[:count])
