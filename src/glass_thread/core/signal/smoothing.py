"""Low-pass filters over evenly spaced values: zero phase, and at the ends they go on as a curve, without ringing."""

from __future__ import annotations

from functools import lru_cache
from math import comb

import numpy as np
import scipy

from .types import HOP_S, Floats


def low_pass(values: Floats, cutoff_hz: float, *, order: int = 3) -> Floats:
    """What of shape (n,) on the 5 ms grid moves slower than `cutoff_hz`, a new array.

    The curve that lies near the values and whose differences of `order` are small; the response is
    ``1 / (1 + (sin(πfh) / sin(πf_c h))^(2·order))``, a half at the cutoff (E. T. Whittaker, "On a new method of
    graduation", Proc. Edinburgh Math. Soc. 41, 1923; P. H. C. Eilers, "A perfect smoother", Anal. Chem. 75, 2003).
    Values too few for that give their mean.
    """
    n = len(values)
    if n <= order + 1:
        return np.full(n, float(np.mean(values))) if n else np.zeros(0)
    return scipy.linalg.cho_solve_banded((_factor(n, cutoff_hz, order), True), values, check_finite=False)


@lru_cache(maxsize=512)
def _factor(n: int, cutoff_hz: float, order: int) -> Floats:
    """Lower banded Cholesky factor of ``1 + λ D'D``, shape (order + 1, n)."""
    weight = (2.0 * np.sin(np.pi * cutoff_hz * HOP_S)) ** (-2.0 * order)
    taps = [(-1.0) ** (order - k) * comb(order, k) for k in range(order + 1)]
    banded = np.zeros((order + 1, n))
    banded[0] = 1.0
    for i, first in enumerate(taps):
        for j in range(i, order + 1):
            banded[j - i, i : n - order + i] += weight * first * taps[j]
    return scipy.linalg.cholesky_banded(banded, lower=True)
