"""Slow, smooth noise by which a derived voice wanders from the one it is made of."""

from __future__ import annotations

import numpy as np
import scipy

from .types import Floats

STEP_S = 0.05


class Wander:
    """A few lines of smooth noise over time, from a seed: the same seed, the same lines.

    Each line has mean 0 and standard deviation 1 over the moments it is first asked for.
    """

    def __init__(self, seed: int, duration_s: float) -> None:
        self._rng = np.random.default_rng((0x61A55, seed))
        self._count = max(16, int(np.ceil(duration_s / STEP_S)) + 1)

    def line(self, slow_s: float, moments: Floats) -> Line:
        """The next line; it turns over about `slow_s`, and is even over `moments` in seconds."""
        raw = self._rng.standard_normal(self._count)
        values = scipy.ndimage.gaussian_filter1d(raw, max(slow_s / STEP_S, 1.0), mode="reflect")
        return Line(values, moments)


class Line:
    """One line of noise."""

    def __init__(self, values: Floats, moments: Floats) -> None:
        self._values = values
        here = self._read(moments)
        self._mean, self._spread = (float(here.mean()), float(here.std())) if len(here) > 1 else (0.0, 1.0)

    def _read(self, at_s: Floats) -> Floats:
        return np.interp(np.asarray(at_s) / STEP_S, np.arange(len(self._values)), self._values)

    def at(self, at_s: float) -> float:
        """Its value at a moment."""
        return float((self._read(np.array([at_s]))[0] - self._mean) / max(self._spread, 1e-9))
