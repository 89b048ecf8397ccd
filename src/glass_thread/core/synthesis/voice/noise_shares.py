"""How a mean over neighbouring cycles parts breath: what passes for harmonics, and what is left beside them."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from .cycle_harmonics import cycle_window

_LOST = 0.8  # of their breath is what harmonics lose over 3 kHz
_POINTS = 64


@dataclass(frozen=True)
class NoiseShares:
    """Of the power of white noise: what a cycle's mean takes along, what is heard of it in the sound of such cycles,
    and what is left beside that sound."""

    in_the_mean: float
    heard: float
    beside: float

    @property
    def make_up(self) -> float:
        """Factor on what is beside the harmonics that makes the breath in both as strong as it was."""
        return float(np.sqrt((1.0 - self.heard) / self.beside))

    @property
    def make_up_alone(self) -> float:
        """The same beside harmonics that lost their breath."""
        return self.make_up + _LOST * (self.beside**-0.5 - self.make_up)


@lru_cache(maxsize=8)
def noise_shares(cycles: int) -> NoiseShares:
    """How a mean over so many cycles parts noise."""
    weights = cycle_window(cycles, _POINTS)
    ramp = np.arange(_POINTS) / _POINTS
    # A sample is read from the mean at the mark before it and, more and more, from the one at the mark after it.
    read = np.zeros((cycles + 1, _POINTS))
    read[:cycles] += (1.0 - ramp) * weights
    read[1:] += ramp * weights
    left = -read
    left[cycles // 2] += 1.0
    in_the_mean, heard, beside = (float(np.mean((x**2).sum(axis=0))) for x in (weights, read, left))
    return NoiseShares(in_the_mean, heard, beside)
