"""Resonances of a voice by linear prediction.

Autocorrelation method, formants as angles of the prediction polynomial's roots (J. D. Markel, A. H. Gray, "Linear
Prediction of Speech", Springer 1976).
"""

from __future__ import annotations

import numpy as np
import scipy

from ..signal.signal_tools import resample
from ..signal.types import Floats

COUNT = 3
_RATE, _WINDOW_S, _EMPHASIS_HZ = 10_000, 0.03, 50.0
_ORDER = 12  # two for each kilohertz of the band, and two for the source
_LOWEST_HZ, _WIDEST_HZ = 150.0, 500.0


def formants(audio: Floats, sample_rate: int, times_s: Floats) -> Floats:
    """The lowest three resonances in Hz around some moments of a mono recording, shape (len(times_s), 3), NaN where
    there are fewer."""
    low = resample(audio, sample_rate, _RATE)
    emphasised = scipy.signal.lfilter([1.0, -np.exp(-2.0 * np.pi * _EMPHASIS_HZ / _RATE)], [1.0], low)
    emphasised = emphasised / max(float(np.abs(emphasised).max(initial=0.0)), 1e-12)  # how loud it is does not matter
    size = round(_WINDOW_S * _RATE)
    padded = np.pad(emphasised, size)
    at = np.round(times_s * _RATE).astype(int) + size - size // 2
    return np.array([_of_frame(padded[begin : begin + size] * np.hamming(size)) for begin in at]).reshape(-1, COUNT)


def _of_frame(frame: Floats) -> Floats:
    found = np.full(COUNT, np.nan)
    correlation = np.correlate(frame, frame, mode="full")[len(frame) - 1 : len(frame) + _ORDER]
    if len(frame) <= _ORDER or correlation[0] <= 1e-12:
        return found
    correlation[0] *= 1.0 + 1e-9
    predictor = scipy.linalg.solve_toeplitz(correlation[:-1], correlation[1:])
    roots = np.roots(np.concatenate([[1.0], -predictor]))
    roots = roots[roots.imag > 0.0]
    hertz = np.angle(roots) * _RATE / (2.0 * np.pi)
    width = -np.log(np.abs(roots)) * _RATE / np.pi
    kept = np.sort(hertz[(hertz > _LOWEST_HZ) & (width < _WIDEST_HZ)])[:COUNT]
    found[: len(kept)] = kept
    return found
