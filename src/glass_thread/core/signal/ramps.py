"""Smooth ways in and out of a stretch on the analysis grid."""

from __future__ import annotations

import numpy as np

from .signal_tools import smoothstep
from .types import HOP_S, Floats

LEVEL_RAMP_S = 0.03


def inside(n: int, ramp_s: float = LEVEL_RAMP_S) -> Floats:
    """Weight over `n` frames, exactly 0 at both ends: smooth ramps of at most `ramp_s` and a third of it."""
    ramp = max(1.0, min(ramp_s / HOP_S, n / 3))
    position = np.arange(n)
    return smoothstep(position / ramp) * smoothstep((n - 1 - position) / ramp)
