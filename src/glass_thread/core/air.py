"""Find the unpitched sounds: sibilants, breaths and other consonants."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.fft as fft
import scipy.ndimage as ndi
from numpy.typing import NDArray

from .signal_tools import runs
from .types import HOP_S, AirEvent, Floats
from .units import gain_to_db

FRAME_S = 0.0107
BAND_EDGES_HZ = (80.0, 1000.0, 2500.0, 4500.0, 11000.0)
RISE_DB = 9.0  # above the recording's own floor
SHORTEST_S = 0.015
BREATH_MIN_S = 0.13
SIBILANT_MIN_S = 0.05
LOW_SHARE = 0.09  # power from 1 to 2.5 kHz over that above, at most, in a sibilant
RUMBLE_SHARE = 0.35  # the same below 1 kHz
RUMBLE_SEMITONES = 3.0
_CHUNK = 4096


@dataclass(frozen=True)
class AirFeatures:
    """Per-frame band levels: power of shape (n, 4) in the bands between `BAND_EDGES_HZ`, and centroid in Hz."""

    power: Floats
    centroid_hz: Floats


def air_features(audio: Floats, sample_rate: int, n_frames: int) -> AirFeatures:
    """Short-time band powers of shape (n,) audio on the analysis grid."""
    size = max(64, int(FRAME_S * sample_rate))
    window = np.hanning(size).astype(np.float32)
    freq = np.fft.rfftfreq(size, 1.0 / sample_rate)
    edges = [np.searchsorted(freq, min(e, sample_rate / 2)) for e in BAND_EDGES_HZ]
    power = np.zeros((n_frames, 4))
    centroid = np.zeros(n_frames)
    for first in range(0, n_frames, _CHUNK):
        frames = np.arange(first, min(first + _CHUNK, n_frames))
        start = np.round(frames * HOP_S * sample_rate).astype(np.int64) - size // 2
        low, high = int(start[0]), int(start[-1]) + size
        part = audio[max(low, 0) : max(high, 0)]
        part = np.pad(part, (max(0, -low), max(0, high - max(low, 0) - len(part))))
        block = np.lib.stride_tricks.sliding_window_view(part, size)[start - low] * window
        transform = fft.rfft(np.asarray(block, dtype=np.float32), axis=1)
        spectrum = (transform.real**2 + transform.imag**2) / (0.375 * size * size)
        for band in range(4):
            power[frames, band] = spectrum[:, edges[band] : max(edges[band + 1], edges[band] + 1)].sum(axis=1)
        used = spectrum[:, edges[0] : edges[4]]
        centroid[frames] = (used @ freq[edges[0] : edges[4]]) / np.maximum(used.sum(axis=1), 1e-20)
    return AirFeatures(2.0 * power, centroid)


def find_air(features: AirFeatures, voiced: NDArray[np.bool_]) -> tuple[AirEvent, ...]:
    """Unvoiced stretches that rise above the recording's floor, cut where their colour changes, and named."""
    total = gain_to_db(np.sqrt(features.power.sum(axis=1)))
    if len(total) == 0:
        return ()
    floor = max(float(np.percentile(total, 4)), -110.0)
    loud = (total > floor + RISE_DB) & (total > np.percentile(total, 90) - 48.0)
    hissing = _settled(loud & _is_bright(features)) & ~_deep_inside(voiced)
    for a, b in runs(hissing):
        if (b - a) * HOP_S < SIBILANT_MIN_S:
            hissing[a:b] = False
    rest = ndi.binary_closing(~voiced & loud, np.ones(5)) & ~voiced & ~hissing
    found = [(a, b, "sibilant") for a, b in runs(hissing)]
    found += [(a, b, "breath" if (b - a) * HOP_S >= BREATH_MIN_S else "consonant") for a, b in runs(rest)]
    kept = [row for row in sorted(found) if (row[1] - row[0]) * HOP_S >= SHORTEST_S]
    return tuple(
        AirEvent(f"a{i + 1:04d}", kind, a * HOP_S, b * HOP_S, float(total[a:b].max()))
        for i, (a, b, kind) in enumerate(kept)
    )


def _is_bright(features: AirFeatures) -> NDArray[np.bool_]:
    """Hiss above 2.5 kHz with little below it: weaker fricatives reach further down; rumble does not count."""
    high = features.power[:, 2:].sum(axis=1)
    little = features.power[:, 1] < LOW_SHARE * high
    return little & (features.power[:, 0] < RUMBLE_SHARE * high) & (features.centroid_hz > 3400)


def rumble_in_sibilants(midi: Floats, features: AirFeatures) -> NDArray[np.bool_]:
    """Frames whose pitch, shape (n,), is a rumble under a sibilant: bright, and far from the voice on both sides."""
    wrong = np.zeros(len(midi), dtype=bool)
    bright = _settled(_is_bright(features))
    for a, b in runs(bright & np.isfinite(midi)):
        if (b - a) * HOP_S < SHORTEST_S:
            continue
        here = np.median(midi[a:b])
        around = np.concatenate((midi[max(0, a - 6) : a], midi[b : b + 6]))
        around = around[np.isfinite(around)]
        if len(around) == 0 or np.abs(around - here).min() > RUMBLE_SEMITONES:
            wrong[a:b] = True
    return wrong


def _settled(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Bridge single missing frames and drop single frames."""
    return ndi.binary_opening(ndi.binary_closing(mask, np.ones(5)), np.ones(3))


def _deep_inside(voiced: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Voiced frames more than 15 ms from an edge: brightness there belongs to the voice."""
    return ndi.binary_erosion(voiced, np.ones(7))
