"""Reading a signal between its samples with a windowed sinc."""

from __future__ import annotations

from functools import lru_cache

import numba
import numpy as np
from numpy.typing import NDArray

from .types import Floats

TAPS = 32
STEPS = 512
_KAISER_BETA = 9.0


@lru_cache(maxsize=1)
def sinc_table() -> Floats:
    """Windowed-sinc rows, shape (STEPS + 1, TAPS); row r reads r / STEPS after a sample, row 0 the sample itself."""
    distance = (np.arange(TAPS) - TAPS // 2 + 1)[None] - (np.arange(STEPS + 1) / STEPS)[:, None]
    inside = np.clip(1.0 - (distance / (TAPS / 2)) ** 2, 0.0, 1.0)
    table = np.sinc(distance) * np.i0(_KAISER_BETA * np.sqrt(inside)) / np.i0(_KAISER_BETA)
    table /= table.sum(axis=1, keepdims=True)
    table.flags.writeable = False
    return table


@numba.njit(cache=True, nogil=True, fastmath=True)
def _read(signal, positions, table, out):  # pragma: no cover - compiled
    n = len(signal)
    steps = table.shape[0] - 1
    taps = table.shape[1]
    half = taps // 2 - 1
    for j in range(len(positions)):
        whole = int(np.floor(positions[j]))
        fine = (positions[j] - whole) * steps
        row = int(fine)
        share = fine - row
        total = 0.0
        first = whole - half
        if first >= 0 and first + taps <= n:
            for t in range(taps):
                total += (table[row, t] * (1.0 - share) + table[min(row + 1, steps), t] * share) * signal[first + t]
        else:
            for t in range(taps):
                if 0 <= first + t < n:
                    total += (table[row, t] * (1.0 - share) + table[min(row + 1, steps), t] * share) * signal[first + t]
        out[j] = total


def read_between(signal: Floats, positions: Floats) -> NDArray[np.float64]:
    """Values of `signal`, shape (n,), at fractional sample `positions`, shape (m,); zero outside."""
    out = np.empty(len(positions))
    _read(np.ascontiguousarray(signal), np.ascontiguousarray(positions), sinc_table(), out)
    return out
