"""Harmonics of a vowel that is held shorter: what moves in them would come faster than a voice moves, and is smoothed.

The unevenness of a voice from cycle to cycle has its own speed, however long a note is held.  Where only every other
cycle is left it would come at twice that speed, which is heard as roughness and fills the gaps between the harmonics.
"""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from ...signal.types import Floats

OVER_S = 0.035  # from 20 to 60 ms are nearly the same, against a singer's own shorter notes
_FULL = 1.5  # times as fast, from which on everything is smoothed


def steadied_cycles(cycle_hz: Floats) -> int:
    """Cycles to smooth over, an odd number, in a run whose cycles come so often; `cycle_hz`, shape (n,)."""
    return 2 * round(OVER_S * float(np.median(cycle_hz)) / 2.0) + 1


def how_steady(positions: Floats, origins: Floats, stretched: NDArray[np.bool_]) -> Floats:
    """How far the harmonics of each new cycle are smoothed, shape (m,): 0 where time does not go faster, 1 from half
    as fast again on.

    Parameters
    ----------
    positions, origins : ndarray, shape (m,)
        Samples where the new cycles begin, and which samples of the source those are; m at least 2.
    stretched : ndarray of bool, shape (m,)
        Where time is stretched.
    """
    speed = np.gradient(origins) / np.gradient(positions)
    return np.where(stretched, np.clip((speed - 1.0) / (_FULL - 1.0), 0.0, 1.0), 0.0)


def steadied(found: NDArray[np.complex128], cycles: int) -> NDArray[np.complex128]:
    """Harmonics at marks, shape (n, k), each a bell-weighted mean of those of so many marks around."""
    bell = np.hanning(cycles + 2)[1:-1]
    bell /= bell.sum()
    return np.asarray(scipy.ndimage.convolve1d(found, bell, axis=0, mode="nearest"))
