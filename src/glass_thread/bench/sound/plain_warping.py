"""Plain dynamic time warping over chroma or pitch, as general-purpose libraries do it: all steps allowed, no limits."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import scipy

from ...core.signal.types import HOP_S, Contour, Floats

_HOP, _SIZE = 512, 4096
_EVERY = 2


def chroma_rows(audio: Floats, rate: int, contour: Contour) -> tuple[Floats, float]:
    """Unit chroma of 93 ms windows, shape (n, 12), and their hop in seconds."""
    del contour
    freq, _times, spectrum = scipy.signal.stft(audio, rate, nperseg=_SIZE, noverlap=_SIZE - _HOP)
    power = np.abs(spectrum) ** 2
    audible = (freq > 60.0) & (freq < 5000.0)
    classes = np.round(12.0 * np.log2(freq[audible] / 440.0)).astype(int) % 12
    rows = np.stack([power[audible][classes == k].sum(axis=0) for k in range(12)], axis=1)
    return rows / np.maximum(np.linalg.norm(rows, axis=1, keepdims=True), 1e-9), _HOP / rate


def pitch_rows(audio: Floats, rate: int, contour: Contour) -> tuple[Floats, float]:
    """Pitch in octaves less its median, 0 where unvoiced, and voicing; shape (n, 2), and their hop in seconds."""
    del audio, rate
    midi = contour.midi[::_EVERY]
    middle = np.nanmedian(midi) if np.isfinite(midi).any() else 0.0
    rows = np.column_stack([np.nan_to_num((midi - middle) / 12.0), np.isfinite(midi).astype(float)])
    return rows, _EVERY * HOP_S


def plain_warping(mine: Floats, theirs: Floats, hop_s: float) -> Callable[[Floats], Floats]:
    """The function from moments of one to moments of the other along the cheapest way."""
    n, m = len(mine), len(theirs)
    cost = scipy.spatial.distance.cdist(mine, theirs).astype(np.float32)
    total = np.full((n + 1, m + 1), np.inf, dtype=np.float32)
    total[0, 0] = 0.0
    for diagonal in range(2, n + m + 1):
        i = np.arange(max(1, diagonal - m), min(n, diagonal - 1) + 1)
        j = diagonal - i
        best = np.minimum(np.minimum(total[i - 1, j], total[i, j - 1]), total[i - 1, j - 1])
        total[i, j] = cost[i - 1, j - 1] + best
    way = []
    i, j = n, m
    while i > 0 and j > 0:
        way.append((i - 1, j - 1))
        step = int(np.argmin((total[i - 1, j - 1], total[i - 1, j], total[i, j - 1])))
        i, j = (i - 1, j - 1) if step == 0 else (i - 1, j) if step == 1 else (i, j - 1)
    path = np.array(way[::-1], dtype=float) * hop_s
    ours, first = np.unique(path[:, 0], return_index=True)
    return lambda moments: np.interp(moments, ours, path[first, 1])
