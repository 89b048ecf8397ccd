"""Pitch-synchronous overlap-add of what is not harmonic (Moulines and Charpentier 1990)."""

from __future__ import annotations

import numba
import numpy as np
from numpy.typing import NDArray

from ...signal.interpolation import sinc_table
from ...signal.types import Floats


@numba.njit(cache=True, nogil=True, fastmath=True)
def _overlap_add(x, marks, sources, targets, scales, table, out):  # pragma: no cover - compiled
    """Add a grain of two analysis periods around marks[sources[j]] at targets[j] to out."""
    steps = table.shape[0] - 1
    taps = table.shape[1]
    half = taps // 2 - 1
    n = len(x)
    weights = np.empty(taps)  # between two rows of the table; the same for a whole grain that is read as it is
    for j in range(len(targets)):
        i = sources[j]
        left = marks[i] - marks[max(i - 1, 0)] if i > 0 else marks[1] - marks[0]
        right = marks[i + 1] - marks[i] if i + 1 < len(marks) else left
        begin = max(int(np.ceil(targets[j] - left)), 0)
        end = min(int(np.floor(targets[j] + right)) + 1, len(out))
        middle = int(np.ceil(targets[j]))
        bell = turn = 0.0j  # a pointer that turns: a cosine for each sample takes as long as all the rest
        for o in range(begin, end):
            u = o - targets[j]
            if o in (begin, middle):
                reach = left if u < 0 else right
                bell = complex(np.cos(np.pi * u / reach), np.sin(np.pi * u / reach))
                turn = complex(np.cos(np.pi / reach), np.sin(np.pi / reach))
            w = 0.5 + 0.5 * bell.real
            bell *= turn
            position = marks[i] + u * scales[j]
            if scales[j] != 1.0 or o == begin:
                fine = (position - np.floor(position)) * steps
                row = int(fine)
                share = fine - row
                for t in range(taps):
                    weights[t] = table[row, t] * (1.0 - share) + table[min(row + 1, steps), t] * share
                first = int(np.floor(position)) - half
            else:
                first += 1
            total = 0.0
            if first >= 0 and first + taps <= n:
                for t in range(taps):
                    total += weights[t] * x[first + t]
            else:
                for t in range(taps):
                    if 0 <= first + t < n:
                        total += weights[t] * x[first + t]
            out[o] += w * total


def overlap_add(
    x: Floats, marks: Floats, sources: NDArray[np.int64], targets: Floats, scales: Floats, length: int
) -> Floats:
    """Sum of windowed grains.

    Parameters
    ----------
    x : ndarray, shape (n,)
        Signal to take grains from.
    marks : ndarray, shape (m,)
        Analysis marks, in samples of `x`.
    sources, targets : ndarray, shape (k,)
        For each grain the index of its mark, and where its centre goes in samples.
    scales : ndarray, shape (k,)
        How much faster each grain is read: its spectrum moves up by as much.
    length : int
        Number of samples of the result; `targets` count from its first.
    """
    out = np.zeros(length)
    _overlap_add(np.ascontiguousarray(x), marks, sources.astype(np.int64), targets, scales, sinc_table(), out)
    return out
