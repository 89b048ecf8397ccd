"""Between pitch marks: which share of a cycle has gone by at a sample, and the sample at which so much has gone by.

Both follow the monotone cubic through the marks (F. N. Fritsch, J. Butland, "A method for constructing local monotone
piecewise cubic interpolants", SIAM J. Sci. Stat. Comput. 5, 1984), so that no cycle begins with a jump of frequency.
"""

from __future__ import annotations

import numba
import numpy as np

from ...signal.types import Floats

_NEWTON_STEPS = 3  # from the straight line; good to 1e-6 samples where neighbours differ by less than two thirds


@numba.njit(cache=True, nogil=True)
def _slopes(marks, low, high):  # pragma: no cover - compiled
    """Cycles per sample at marks [low, high)."""
    n = len(marks)
    out = np.empty(high - low)
    for i in range(low, high):
        if n == 2:
            slope = 1.0 / (marks[1] - marks[0])
        elif i in (0, n - 1):
            near = marks[1] - marks[0] if i == 0 else marks[n - 1] - marks[n - 2]
            far = marks[2] - marks[1] if i == 0 else marks[n - 2] - marks[n - 3]
            slope = ((2.0 * near + far) / near - near / far) / (near + far)
            slope = min(max(slope, 0.0), 3.0 / near)
        else:
            before, after = marks[i] - marks[i - 1], marks[i + 1] - marks[i]
            w1, w2 = 2.0 * after + before, after + 2.0 * before
            slope = (w1 + w2) / (w1 * before + w2 * after)
        out[i - low] = slope
    return out


@numba.njit(cache=True, nogil=True)
def _phases(marks, at, first, last, out):  # pragma: no cover - compiled
    slopes = _slopes(marks, first, last + 1)
    k = first
    for j in range(len(at)):
        while k < last - 1 and at[j] >= marks[k + 1]:
            k += 1
        length = marks[k + 1] - marks[k]
        u = (at[j] - marks[k]) / length
        a, b = slopes[k - first] * length, slopes[k + 1 - first] * length
        out[j] = k + u * (a + u * (3.0 - 2.0 * a - b + u * (a + b - 2.0)))


@numba.njit(cache=True, nogil=True)
def _places(marks, cycles, out):  # pragma: no cover - compiled
    n = len(marks)
    first = min(max(int(np.floor(cycles[0])), 0), n - 2)
    last = min(max(int(np.floor(cycles[-1])) + 1, first + 1), n - 1)
    slopes = _slopes(marks, first, last + 1)
    for j in range(len(cycles)):
        k = min(max(int(np.floor(cycles[j])), first), last - 1)
        length = marks[k + 1] - marks[k]
        a, b = slopes[k - first] * length, slopes[k + 1 - first] * length
        square, cube = 3.0 - 2.0 * a - b, a + b - 2.0
        wanted = cycles[j] - k
        u = wanted
        for _ in range(_NEWTON_STEPS):
            missing = wanted - u * (a + u * (square + u * cube))
            u += missing / max(a + u * (2.0 * square + u * 3.0 * cube), 0.05)
        out[j] = marks[k] + u * length


def cycle_phase(marks: Floats, positions: Floats) -> Floats:
    """Cycle count (fractional) at increasing sample `positions`, shape (n,): mark i has phase i, smooth and increasing
    between marks, shape (m,), and carried on beyond them; at least two marks."""
    out = np.empty(len(positions))
    if len(positions):
        at = np.asarray(positions, dtype=np.float64)
        # looked for out here, as numba takes half a second over it
        begins, ends = np.searchsorted(marks, (at[0], at[-1]), side="right")
        first = min(max(int(begins) - 1, 0), len(marks) - 2)
        _phases(marks, at, first, min(max(int(ends), first + 1), len(marks) - 1), out)
    return out


def cycle_positions(marks: Floats, cycles: Floats) -> Floats:
    """Sample positions at increasing fractional cycle counts, shape (n,), that lie between the marks."""
    out = np.empty(len(cycles))
    if len(cycles):
        _places(marks, cycles, out)
    return out
