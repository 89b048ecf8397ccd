"""How alike two short stretches of singing are, whatever their pitch and however long they are held."""

from __future__ import annotations

import numba
import numpy as np

from ..signal.types import Floats

_STRAIGHT = 0.05  # what a frame held longer or shorter costs, so that a straight way is preferred
_HALF = 0.6  # mean distance a frame at which two stretches are half alike; from our own material


def unlikeness(first: Floats, second: Floats) -> float:
    """The least mean distance a frame between two stretches of features, shape (n, k) and (m, k), over all ways of
    walking through both."""
    if len(first) == 0 or len(second) == 0:
        return float("inf")
    return float(_walked(np.ascontiguousarray(first), np.ascontiguousarray(second), _STRAIGHT))


def likeness(first: Floats, second: Floats) -> float:
    """1 for the same sound down to 0 for another one; a half at `_HALF`."""
    return float(0.5 ** ((unlikeness(first, second) / _HALF) ** 2))


@numba.njit(cache=True, nogil=True, fastmath=True)
def _walked(first, second, straight):  # type: ignore[no-untyped-def]  # pragma: no cover - compiled
    n, m, k = first.shape[0], second.shape[0], first.shape[1]
    before = np.full(m, np.inf)
    here = np.empty(m)
    for i in range(n):
        for j in range(m):
            distance = 0.0
            for c in range(k):
                apart = first[i, c] - second[j, c]
                distance += apart * apart
            distance = np.sqrt(distance)
            if i == 0 and j == 0:
                here[j] = 2.0 * distance
                continue
            best = np.inf
            if i > 0 and j > 0:
                best = before[j - 1] + 2.0 * distance
            if i > 0:
                best = min(best, before[j] + distance + straight)
            if j > 0:
                best = min(best, here[j - 1] + distance + straight)
            here[j] = best
        before, here = here, before
    return before[m - 1] / (n + m)
