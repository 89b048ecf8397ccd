"""The glottal flow derivative by the LF model: the source of a sung vowel.

G. Fant, J. Liljencrants, Q. Lin, "A four-parameter model of glottal flow",
STL-QPSR 4/1985; the shape parameter Rd: G. Fant, "The LF-model revisited",
STL-QPSR 2-3/1995 (its eqs. 2 to 4 for Ra, Rk, Rg, from memory).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import scipy

from ...signal.types import Floats

_POINTS = 4096


def lf_pulse(rd: float, points: int = _POINTS) -> Floats:
    """One period of the flow derivative, shape (points,), closure at index 0, mean 0, closure strength 1.

    `rd` runs from 0.4 (pressed) to 2.7 (breathy).
    """
    shape, close = _opening_first(rd, points)
    return np.roll(shape, -int(close * points))


@lru_cache(maxsize=64)
def _opening_first(rd: float, points: int) -> tuple[Floats, float]:
    """The pulse from the start of opening, and the instant of closure as a share of the period."""
    ra, rk = (-1.0 + 4.8 * rd) / 100.0, (22.4 + 11.8 * rd) / 100.0
    rg = rk / (4.0 * (0.11 * rd / (0.5 + 1.2 * rk) - ra))
    peak = 1.0 / (2.0 * rg)
    close = min(peak * (1.0 + rk), 0.99)
    rest = 1.0 - close
    decay = scipy.optimize.brentq(lambda e: e * ra - 1.0 + np.exp(-e * rest), 1e-3 / ra, 2.0 / ra)
    omega = np.pi / peak
    time = (np.arange(points) + 0.5) / points

    def pulse(growth: float) -> Floats:
        scale = -1.0 / (np.exp(growth * close) * np.sin(omega * close))
        opening = scale * np.exp(growth * time) * np.sin(omega * time)
        closing = -(np.exp(-decay * (time - close)) - np.exp(-decay * rest)) / (decay * ra)
        return np.where(time <= close, opening, closing)

    growth = scipy.optimize.brentq(lambda a: pulse(a).sum(), -40.0, 120.0)
    shape = pulse(growth)
    shape -= shape.mean()
    shape.flags.writeable = False
    return shape, close
