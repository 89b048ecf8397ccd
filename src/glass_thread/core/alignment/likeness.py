"""How alike two short stretches of singing are, whatever their pitch and however long they are held."""

from __future__ import annotations

import numba
import numpy as np

from ..signal.types import Floats

_STRAIGHT = 0.05  # what a frame held longer or shorter costs, so that a straight way is preferred
_FAR = 1e30  # more than any distance; what is compiled for speed does not reckon with the infinite
_HALF = 0.6  # mean distance a frame at which two stretches are half alike; from our own material


def unlikeness(first: Floats, second: Floats, most: float = _FAR) -> float:
    """The least mean distance a frame between two stretches of features, shape (n, k) and (m, k), over all ways of
    walking through both; infinite as soon as it is known to be more than `most`."""
    if len(first) == 0 or len(second) == 0:
        return float("inf")
    found = float(_walked(np.ascontiguousarray(first), np.ascontiguousarray(second), _STRAIGHT, most))
    return found if found < _FAR else float("inf")


def likeness(first: Floats, second: Floats, least: float = 0.0) -> float:
    """1 for the same sound down to 0 for another one, a half at `_HALF`; less than `least` need not be told apart."""
    most = _HALF * np.sqrt(-np.log2(least)) if least > 0.0 else _FAR
    return float(0.5 ** ((unlikeness(first, second, most) / _HALF) ** 2))


@numba.njit(cache=True, nogil=True, fastmath=True)
def _walked(first, second, straight, most):  # type: ignore[no-untyped-def]  # pragma: no cover - compiled
    n, m, k = first.shape[0], second.shape[0], first.shape[1]
    before = np.full(m, _FAR)
    here = np.empty(m)
    for i in range(n):
        nearest = _FAR
        for j in range(m):
            distance = 0.0
            for c in range(k):
                apart = first[i, c] - second[j, c]
                distance += apart * apart
            distance = np.sqrt(distance)
            if i == 0 and j == 0:
                here[j] = nearest = 2.0 * distance
                continue
            best = _FAR
            if i > 0 and j > 0:
                best = before[j - 1] + 2.0 * distance
            if i > 0:
                best = min(best, before[j] + distance + straight)
            if j > 0:
                best = min(best, here[j - 1] + distance + straight)
            here[j] = best
            nearest = min(nearest, best)
        if nearest > most * (n + m):  # every way leads through here
            return _FAR
        before, here = here, before
    return before[m - 1] / (n + m)
