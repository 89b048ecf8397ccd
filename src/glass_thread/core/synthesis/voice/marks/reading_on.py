"""Breath in a vowel that is held longer or shorter: it is read on at its own speed, cycle after cycle.

A cycle of breath that is played twice in a row is no breath any more: the ear hears noise that repeats as a tone or a
flutter, and where every other cycle is left out neighbours no longer fit.  So the cycles follow each other as they were
sung until they are some way ahead of where the map is (or behind it), and go on from as far on the other side.
"""

from __future__ import annotations

import numba
import numpy as np
from numpy.typing import NDArray

from ....signal.signal_tools import runs
from ....signal.types import Floats

AHEAD_S = 0.025  # what repeats comes after twice as long


@numba.njit(cache=True, nogil=True)
def _read_on(sources, origins, marks, most):  # pragma: no cover - compiled
    """Change `sources` of one stretched piece in place; its two ends stay what the map says."""
    lowest, highest = sources.min(), sources.max()
    here = sources[0]
    for j in range(1, len(sources) - 1):
        here = min(here + 1, highest)
        ahead = marks[here] - origins[j]
        while ahead > most and here > lowest and marks[here - 1] >= origins[j] - most:
            here -= 1
        while ahead < -most and here < highest and marks[here + 1] <= origins[j] + most:
            here += 1
        sources[j] = here


def read_on(
    sources: NDArray[np.int64], origins: Floats, marks: Floats, stretched: NDArray[np.bool_], sample_rate: int
) -> NDArray[np.int64]:
    """Marks, shape (n,), that grains come from, going on from cycle to cycle where time is stretched.

    Parameters
    ----------
    sources : ndarray of int, shape (n,)
        The marks nearest to where the map says.
    origins : ndarray, shape (n,)
        Where the map says, in samples.
    marks : ndarray, shape (m,)
        Analysis marks in samples.
    stretched : ndarray of bool, shape (n,)
    sample_rate : int
        Per second.
    """
    if not stretched.any():
        return sources
    chosen = sources.copy()
    for a, b in runs(stretched):
        _read_on(chosen[a:b], origins[a:b], marks, AHEAD_S * sample_rate)
    return chosen
