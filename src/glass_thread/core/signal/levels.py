"""Loudness over time and of single notes."""

from __future__ import annotations

import numpy as np

from .signal_tools import frame_rms
from .types import HOP_S, Floats, Samples
from .units import gain_to_db

LEVEL_WINDOW_S = 0.02
LOUD_DB = 48.0  # under the loudest within which something is said or sung
NO_BAND_DB = -40.0  # above 5 kHz against all, where there is most of it: −8 to 0 on real takes, −28 on vowels alone


def level_contour(audio: Samples, sample_rate: int, n_frames: int) -> Floats:
    """Root-mean-square level in dBFS of shape (n,) audio, in 20 ms windows on the 5 ms grid."""
    return gain_to_db(frame_rms(audio, sample_rate, np.arange(n_frames) * HOP_S, LEVEL_WINDOW_S))


def mean_level(level_db: Floats) -> float:
    """Level of the mean power of a stretch of the contour, in dBFS."""
    return float(10.0 * np.log10(np.mean(np.power(10.0, level_db / 10.0)) + 1e-12))


def is_band_limited(level_db: Floats, high_db: Floats) -> bool:
    """Whether a take came through a line that carries nothing above 5 kHz, and so no sibilants, shapes (n,)."""
    if len(level_db) == 0 or len(high_db) != len(level_db):
        return False
    loud = level_db > max(float(np.percentile(level_db, 95)) - LOUD_DB, -90.0)
    return bool(loud.any() and np.percentile((high_db - level_db)[loud], 98) < NO_BAND_DB)
