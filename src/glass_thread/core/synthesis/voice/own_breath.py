"""Breath of a voice that is moved far: it has no pitch and stays where it is.

The mean over cycles takes breath along.  Moved by a few semitones that is not heard, but an octave up, where every
cycle comes twice, breath over 3 kHz turned into thin lines that wave with the pitch.  There harmonics lose what breath
alone would have left in them, and what lies beside them is not cut into cycles.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import scipy
from numpy.typing import NDArray

from ...signal.types import Floats
from .noise_shares import NoiseShares

FROM_HZ = 3000.0  # below, a sung vowel is little but harmonics
NEAR_MARKS = 4  # on either side, that say how much breath there is
_BLEND = 0.2  # to either side of 3 kHz
_FIRST, _FAR = 3.0, 7.0  # semitones
_TAPS = 127
_OVER = 1.6  # more than is reckoned, as neither of the two powers is known exactly
_NEAR_HARMONICS = 9


def how_far(ratio: Floats) -> Floats:
    """0 for changes of up to three semitones, 1 from a fifth on; `ratio`, any shape, is new over old frequency."""
    return np.asarray(np.clip((np.abs(12.0 * np.log2(ratio)) - _FIRST) / (_FAR - _FIRST), 0.0, 1.0))


def breathless(
    found: NDArray[np.complex128], beside: Floats, cycle_hz: Floats, share: Floats, noise: NoiseShares
) -> Floats:
    """Factors, shape (n, k), that take out of harmonics what breath would have left in them.

    Parameters
    ----------
    found : ndarray of complex, shape (n, k)
        Harmonics at n marks.
    beside : ndarray, shape (n, points)
        The cycles from those marks on, less the harmonics.
    cycle_hz, share : ndarray, shape (n,)
        How often the cycles come, and how much is to be done there, 0 to 1.
    noise : NoiseShares
        Of the mean that the harmonics were found with.
    """
    size = (2 * NEAR_MARKS - 1, _NEAR_HARMONICS)
    left = np.abs(scipy.fft.rfft(beside, axis=1) / beside.shape[1])[:, : found.shape[1]] ** 2
    breath = scipy.ndimage.uniform_filter(left, size, mode="nearest") * (noise.in_the_mean / noise.beside)
    power = scipy.ndimage.uniform_filter(np.abs(found) ** 2, size, mode="nearest")
    factor = np.sqrt(np.clip(1.0 - _OVER * breath / np.maximum(power, 1e-30), 0.0, 1.0))
    hz = np.arange(found.shape[1]) * cycle_hz[:, None]
    above = np.clip((hz / FROM_HZ - 1.0 + _BLEND) / (2.0 * _BLEND), 0.0, 1.0)
    return np.asarray(1.0 - share[:, None] * above * (1.0 - factor))


def lower_part(x: Floats, sample_rate: int) -> Floats:
    """What of `x`, shape (n,), lies below 3 kHz, in its place."""
    return np.asarray(scipy.signal.oaconvolve(x, _low_pass(sample_rate), "same"))


@lru_cache(maxsize=8)
def _low_pass(sample_rate: int) -> Floats:
    return np.asarray(scipy.signal.firwin(_TAPS, FROM_HZ, fs=sample_rate))
