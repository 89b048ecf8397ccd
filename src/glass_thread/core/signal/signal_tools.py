"""Small array tools shared by analysis and rendering."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import TypeVar

import numpy as np
import soxr
from numpy.typing import ArrayLike, NDArray

from .types import Floats, Samples

_FRAMES_AT_ONCE = 8192
Number = TypeVar("Number", int, float)


def runs(mask: ArrayLike) -> list[tuple[int, int]]:
    """Half-open index ranges where `mask`, shape (n,), is true."""
    flags = np.asarray(mask, dtype=bool).tobytes()  # searched byte by byte: for a few runs a tenth of what diff takes
    found, first = [], flags.find(1)
    while first >= 0:
        last = flags.find(0, first)
        found.append((first, last if last >= 0 else len(flags)))
        first = flags.find(1, last) if last >= 0 else -1
    return found


def merged_ranges(ranges: Iterable[tuple[Number, Number]], gap: float = 0.0) -> list[tuple[Number, Number]]:
    """Ranges in order, those no further apart than `gap` made one."""
    found: list[tuple[Number, Number]] = []
    for start, end in sorted(ranges):
        if found and start - found[-1][1] <= gap:
            found[-1] = (found[-1][0], max(found[-1][1], end))
        else:
            found.append((start, end))
    return found


def runs_between_leaps(values: Floats, leap: float) -> list[tuple[int, int]]:
    """Half-open index ranges of finite `values`, shape (n,), parted where neighbours differ by more than `leap`."""
    found: list[tuple[int, int]] = []
    for first, last in runs(np.isfinite(values)):
        leaps = first + 1 + np.flatnonzero(np.abs(np.diff(values[first:last])) > leap)
        found += itertools.pairwise([first, *leaps.tolist(), last])
    return found


def smoothstep(u: ArrayLike) -> Floats:
    """C1 step: 0 for u <= 0, 1 for u >= 1, ``3u² − 2u³`` between."""
    x = np.clip(np.asarray(u, dtype=np.float64), 0.0, 1.0)
    return x * x * (3.0 - 2.0 * x)


def resample(audio: Floats, from_rate: int, to_rate: int) -> Floats:
    """Resample shape (n,) or (channels, n) with soxr; the same array when the rates agree."""
    if from_rate == to_rate:
        return audio
    return np.ascontiguousarray(soxr.resample(audio.T, from_rate, to_rate, quality="HQ").T)


def moving_average(values: Floats, width: int) -> Floats:
    """Centred moving average of odd `width` over shape (n,); edges average what is there."""
    half = max(0, width // 2)
    total = np.concatenate(([0.0], np.cumsum(values)))
    index = np.arange(len(values))
    low, high = np.maximum(index - half, 0), np.minimum(index + half + 1, len(values))
    return (total[high] - total[low]) / (high - low)


def frame_rms(audio: Samples, sample_rate: int, times: Floats, width_s: float) -> Floats:
    """Root mean square of shape (n,) in windows of `width_s` centred on `times` (seconds)."""
    centre = np.round(times * sample_rate).astype(np.int64)
    half = max(1, int(width_s * sample_rate / 2))
    low, high = np.clip(centre - half, 0, len(audio)), np.clip(centre + half, 0, len(audio))
    power = np.zeros(len(times))
    for first in range(0, len(times), _FRAMES_AT_ONCE):  # long recordings must not be squared as a whole
        part = slice(first, first + _FRAMES_AT_ONCE)
        begin, end = int(low[part].min()), int(high[part].max())
        total = np.concatenate(([0.0], np.cumsum(np.square(audio[begin:end], dtype=np.float64))))
        power[part] = total[high[part] - begin] - total[low[part] - begin]
    return np.sqrt(np.maximum(power, 0.0) / np.maximum(high - low, 1))


@lru_cache(maxsize=16)
def _polynomial_weights(width: int, order: int, derivative: int) -> Floats:
    """Row i reads the least-squares polynomial over `width` points at point i, shape (width, width)."""
    place = np.arange(width) - width // 2
    powers = np.vander(place, order + 1, increasing=True).astype(np.float64)
    read = np.zeros_like(powers)
    for power in range(derivative, order + 1):
        factor = math.factorial(power) // math.factorial(power - derivative)
        read[:, power] = factor * np.power(place.astype(np.float64), power - derivative)
    weights = read @ np.linalg.pinv(powers)
    weights.flags.writeable = False
    return weights


def local_polynomial(values: Floats, width: int, order: int, *, derivative: int = 0) -> Floats:
    """Least-squares polynomial through the `width` (odd) points around each of shape (n,), n >= width.

    A. Savitzky, M. J. E. Golay, "Smoothing and differentiation of data by simplified least squares procedures",
    Anal. Chem. 36, 1964; at the ends the first and last polynomials are read on. Derivatives are per point.
    """
    weights = _polynomial_weights(width, order, derivative)
    half = width // 2
    out = np.empty(len(values))
    out[half : len(values) - half] = np.correlate(values, weights[half], "valid")
    out[:half] = weights[:half] @ values[:width]
    out[len(values) - half :] = weights[half + 1 :] @ values[-width:]
    return out


def fill_gaps(values: Floats) -> Floats:
    """Copy of shape (n,) with NaN replaced by linear interpolation, held at the ends; 0 if all are NaN."""
    known = np.flatnonzero(np.isfinite(values))
    if len(known) == 0:
        return np.zeros_like(values)
    return np.interp(np.arange(len(values)), known, values[known])


def run_around(mask: ArrayLike, first: int, last: int) -> tuple[int, int]:
    """Indices [first, last) grown at both ends over what is true in `mask`, shape (n,), which may be very long."""
    busy = np.asarray(mask, dtype=bool)
    return first - _true_from(busy[:first][::-1]), last + _true_from(busy[last:])


def _true_from(mask: NDArray[np.bool_]) -> int:
    """How many are true before the first that is not; looked for in ever longer pieces."""
    begin, piece = 0, 256
    while begin < len(mask):
        found = np.flatnonzero(~mask[begin : begin + piece])
        if len(found):
            return begin + int(found[0])
        begin, piece = begin + piece, 4 * piece
    return len(mask)


def voiced_around(midi: Floats, low: int, high: int) -> tuple[int, int]:
    """Frames [low, high) grown over the voiced runs at their ends, looked for in ever wider surroundings; `midi`, shape
    (n,), is NaN where unvoiced."""
    reach = 2000
    while True:
        first, last = max(0, low - reach), min(len(midi), high + reach)
        a, b = run_around(np.isfinite(midi[first:last]), low - first, high - first)
        if (a > 0 or first == 0) and (b < last - first or last == len(midi)):
            return first + a, first + b
        reach *= 4


def mapped(moments: ArrayLike, given: Sequence[float], wanted: Sequence[float]) -> Floats:
    """Where moments go that a piecewise linear map takes from `given` to `wanted` ones; rigid beyond its ends, and
    everywhere when there are none."""
    moments = np.asarray(moments, dtype=np.float64)
    if not given:
        return moments
    inside = np.interp(moments, given, wanted)
    before, after = np.minimum(moments - given[0], 0.0), np.maximum(moments - given[-1], 0.0)
    return inside + before + after
