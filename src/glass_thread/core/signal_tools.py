"""Small array tools shared by analysis and rendering."""

from __future__ import annotations

import numpy as np
import soxr
from numpy.typing import ArrayLike

from .types import Floats

_FRAMES_AT_ONCE = 8192


def runs(mask: ArrayLike) -> list[tuple[int, int]]:
    """Half-open index ranges where `mask`, shape (n,), is true."""
    padded = np.concatenate(([0], np.asarray(mask, dtype=np.int8), [0]))
    edges = np.flatnonzero(np.diff(padded))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


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


def frame_rms(audio: Floats, sample_rate: int, times: Floats, width_s: float) -> Floats:
    """Root mean square of shape (n,) in windows of `width_s` centred on `times` (seconds)."""
    centre = np.round(times * sample_rate).astype(np.int64)
    half = max(1, int(width_s * sample_rate / 2))
    low, high = np.clip(centre - half, 0, len(audio)), np.clip(centre + half, 0, len(audio))
    power = np.zeros(len(times))
    for first in range(0, len(times), _FRAMES_AT_ONCE):  # long recordings must not be squared as a whole
        part = slice(first, first + _FRAMES_AT_ONCE)
        begin, end = int(low[part].min()), int(high[part].max())
        total = np.concatenate(([0.0], np.cumsum(np.square(audio[begin:end]))))
        power[part] = total[high[part] - begin] - total[low[part] - begin]
    return np.sqrt(np.maximum(power, 0.0) / np.maximum(high - low, 1))


def fill_gaps(values: Floats) -> Floats:
    """Copy of shape (n,) with NaN replaced by linear interpolation, held at the ends; 0 if all are NaN."""
    known = np.flatnonzero(np.isfinite(values))
    if len(known) == 0:
        return np.zeros_like(values)
    return np.interp(np.arange(len(values)), known, values[known])
