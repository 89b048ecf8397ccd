"""Quantising to fewer bits with triangular dither.

S. P. Lipshitz, R. A. Wannamaker, J. Vanderkooy, "Quantization and dither: a
theoretical survey", J. Audio Eng. Soc. 40, 1992.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..signal.types import Floats


def quantise(
    samples: Floats, bits: int, *, dithered: NDArray[np.bool_] | None, rng: np.random.Generator
) -> NDArray[np.int32]:
    """Round full-scale ±1 samples, shape (channels, n), to integers of `bits`.

    Parameters
    ----------
    samples : ndarray, shape (channels, n)
    bits : int
        16 or 24.
    dithered : ndarray of bool, shape (n,), or None
        Where triangular dither of ±1 step is added first; elsewhere values that are already whole stay exact.
        What is whole already in every channel, as silence and displaced copies are, stays exact.
    rng : numpy.random.Generator
    """
    scale = float(2 ** (bits - 1))
    value = samples * scale
    if dithered is not None and dithered.any():
        dithered = dithered & (value != np.rint(value)).any(axis=0)
        # Drawn for all, so that what a sample gets hangs on its place alone and not on what else is dithered.
        noise = rng.random(samples.shape) - rng.random(samples.shape)
        value = np.where(dithered, value + noise, value)
    return np.clip(np.floor(value + 0.5), -scale, scale - 1).astype(np.int32)
