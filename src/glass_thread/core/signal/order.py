"""Order statistics and tables of a few values: for these, NumPy's own take thirty times as long as they save."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence

import numpy as np

from .types import Floats


def median_of(values: Floats) -> float:
    """The same as ``numpy.median``; of at least one value, none of them NaN."""
    ordered = np.sort(values, axis=None)
    middle = len(ordered) // 2
    return float(ordered[middle] if len(ordered) % 2 else (ordered[middle - 1] + ordered[middle]) / 2.0)


def quantile_of(values: Floats, share: float) -> float:
    """The same as ``numpy.quantile`` with linear interpolation (definition 7 of Hyndman and Fan, Sample quantiles in
    statistical packages, The American Statistician 50, 1996); of at least one value, none of them NaN."""
    ordered = np.sort(values, axis=None)
    place = share * (len(ordered) - 1)
    below = int(place)
    low, high = float(ordered[below]), float(ordered[min(below + 1, len(ordered) - 1)])
    part = place - below
    return high - (high - low) * (1.0 - part) if part >= 0.5 else low + (high - low) * part


def looked_up(at: float, places: Sequence[float], values: Sequence[float]) -> float:
    """The same as ``numpy.interp`` of one number: a table with rising places, straight between them, level beyond."""
    above = bisect_right(places, at)
    if above == 0 or above == len(places):
        return float(values[0] if above == 0 else values[-1])
    slope = (values[above] - values[above - 1]) / (places[above] - places[above - 1])
    return float(slope * (at - places[above - 1]) + values[above - 1])
