"""Loudness over time and of single notes."""

from __future__ import annotations

import numpy as np

from .signal_tools import frame_rms
from .types import HOP_S, Floats, Samples
from .units import gain_to_db

LEVEL_WINDOW_S = 0.02


def level_contour(audio: Samples, sample_rate: int, n_frames: int) -> Floats:
    """Root-mean-square level in dBFS of shape (n,) audio, in 20 ms windows on the 5 ms grid."""
    return gain_to_db(frame_rms(audio, sample_rate, np.arange(n_frames) * HOP_S, LEVEL_WINDOW_S))


def mean_level(level_db: Floats) -> float:
    """Level of the mean power of a stretch of the contour, in dBFS."""
    return float(10.0 * np.log10(np.mean(np.power(10.0, level_db / 10.0)) + 1e-12))
