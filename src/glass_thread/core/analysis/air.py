"""Find the unpitched sounds: sibilants, breaths and other consonants."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ..signal.levels import is_band_limited, mean_level
from ..signal.signal_tools import moving_average, runs
from ..signal.types import HOP_S, AirEvent, AirKind, Floats, Samples
from ..signal.units import gain_to_db

FRAME_S = 0.0107
BAND_EDGES_HZ = (80.0, 1000.0, 2500.0, 4500.0, 11000.0)
HIGH_HZ = 5000.0
SPECTRUM_HZ, SPECTRUM_BANDS = (80.0, 16_000.0), 24
RISE_DB = 9.0  # above the recording's own floor
EDGE_RISE_DB = 3.5  # down to which a breath is followed outwards
EDGE_SMOOTH_S, EDGE_REACH_S = 0.025, 0.08
CLOSURE_S = 0.06  # silence of a stop between the voice and its burst, which belongs to it
SHORTEST_S = 0.015
BREATH_MIN_S = 0.13
IN_WORD_S, BESIDE_FRAMES = 0.22, 4
SIBILANT_MIN_S = 0.04
STEADY, NEARLY = 3, 3.0  # frames over which colour is averaged; how much more is let through beside what is sure
BRIGHT_HZ = 3400.0
BURST_MAX_S, BURST_FRAMES, CLOSURE_DB, BURST_RISE_DB = 0.08, 6, 17.0, 17.0
LOW_SHARE = 0.09  # power from 1 to 2.5 kHz over that above, at most, in a frame of a sibilant
FLAT_SHARE = 0.07  # the same over the whole of it: a flat spectrum (f) has 0.1 and more, s and sh have 0.05 at most
RUMBLE_SHARE = 0.35  # the same below 1 kHz
RUMBLE_SEMITONES = 3.0
HISS_UNDER_VOICE_DB, HISS_OVER_MIDDLE, VOICE_DOWN_DB = 27.0, 0.8, 8.0
VOICED_MIN_S, VOICED_MAX_S, VOICED_AROUND_S = 0.03, 0.3, 0.6
_CHUNK = 4096


@dataclass(frozen=True)
class AirFeatures:
    """Per-frame power of shape (n, 4) in the bands between `BAND_EDGES_HZ`, power above 5 kHz, and centroid in Hz."""

    power: Floats
    high: Floats
    centroid_hz: Floats


def air_features(audio: Samples, sample_rate: int, n_frames: int) -> AirFeatures:
    """Short-time band powers of shape (n,) audio on the analysis grid."""
    power, high, centroid = np.zeros((n_frames, 4)), np.zeros(n_frames), np.zeros(n_frames)
    for frames, spectrum, freq in short_spectra(audio, sample_rate, n_frames):
        edges = [np.searchsorted(freq, min(e, sample_rate / 2)) for e in BAND_EDGES_HZ]
        for band in range(4):
            power[frames, band] = spectrum[:, edges[band] : max(edges[band + 1], edges[band] + 1)].sum(axis=1)
        high[frames] = spectrum[:, np.searchsorted(freq, HIGH_HZ) :].sum(axis=1)
        used = spectrum[:, edges[0] : edges[4]]
        centroid[frames] = (used @ freq[edges[0] : edges[4]]) / np.maximum(used.sum(axis=1), 1e-20)
    return AirFeatures(power, high, centroid)


def short_spectra(
    audio: Samples, sample_rate: int, n_frames: int
) -> Iterator[tuple[NDArray[np.int64], NDArray[np.float32], Floats]]:
    """Power spectra in 11 ms windows on the analysis grid, in parts: frame numbers, shape (m, k), and k bins in Hz."""
    size = max(64, int(FRAME_S * sample_rate))
    window = np.hanning(size).astype(np.float32)
    freq = np.fft.rfftfreq(size, 1.0 / sample_rate)
    for first in range(0, n_frames, _CHUNK):
        frames = np.arange(first, min(first + _CHUNK, n_frames))
        start = np.round(frames * HOP_S * sample_rate).astype(np.int64) - size // 2
        low, high = int(start[0]), int(start[-1]) + size
        part = audio[max(low, 0) : max(high, 0)]
        part = np.pad(part, (max(0, -low), max(0, high - max(low, 0) - len(part))))
        block = np.lib.stride_tricks.sliding_window_view(part, size)[start - low] * window
        transform = scipy.fft.rfft(np.asarray(block, dtype=np.float32), axis=1)
        yield frames, 2.0 * (transform.real**2 + transform.imag**2) / (0.375 * size * size), freq


def find_air(features: AirFeatures, voiced: NDArray[np.bool_], level_db: Floats) -> tuple[AirEvent, ...]:
    """Unvoiced stretches that rise above the recording's floor, cut where their colour changes, and named.

    Voiced fricatives are found inside the voice by the hiss above it.  `level_db` is the level on the same grid.
    """
    total = gain_to_db(np.sqrt(features.power.sum(axis=1)))
    if len(total) == 0:
        return ()
    floor = max(float(np.percentile(total, 4)), -110.0)
    loud = (total > floor + RISE_DB) & (total > np.percentile(total, 90) - 48.0)
    hissing = _sibilants(features, loud & ~_deep_inside(voiced), total)
    rest = scipy.ndimage.binary_closing(~voiced & loud, np.ones(5)) & ~voiced & ~hissing
    taken = voiced | hissing | rest
    followed = moving_average(features.power.sum(axis=1), int(EDGE_SMOOTH_S / HOP_S) | 1)
    fading = gain_to_db(np.sqrt(followed)) > floor + EDGE_RISE_DB
    found: list[tuple[int, int, AirKind, bool]] = [(a, b, "sibilant", False) for a, b in runs(hissing)]
    for a, b in runs(rest):
        if (b - a) * HOP_S >= BREATH_MIN_S and not _in_a_word(a, b, voiced):
            found.append((*_follow_out(a, b, fading & ~(voiced | hissing)), "breath", False))
        else:
            found.append((_with_closure(a, voiced, taken), b, "consonant", False))
    found += [(a, b, kind, True) for a, b, kind in _voiced_fricatives(features, voiced, total, hissing)]
    high_db = high_level(features)
    if is_band_limited(level_db, high_db):  # what could tell a sibilant is not there
        found = [(a, b, "consonant" if kind == "sibilant" else kind, sung) for a, b, kind, sung in found]
    kept = [row for row in sorted(found) if (row[1] - row[0]) * HOP_S >= SHORTEST_S]
    return tuple(
        describe_air(f"a{i + 1:04d}", kind, a, b, level_db, high_db, voiced=sung)
        for i, (a, b, kind, sung) in enumerate(kept)
    )


def _sibilants(features: AirFeatures, may_be: NDArray[np.bool_], total: Floats) -> NDArray[np.bool_]:
    """Frames of voiceless sibilants: bright without doubt, and from there out as far as they are nearly so."""
    steady = _averaged(features, STEADY)
    sure = _settled(may_be & _is_bright(steady))
    nearly = may_be & _is_bright(steady, NEARLY)
    hissing = np.zeros(len(sure), dtype=bool)
    for a, b in runs(sure | nearly):
        if not sure[a:b].any() or (b - a) * HOP_S < SIBILANT_MIN_S:
            continue
        share = features.power[a:b, 1].sum() / features.power[a:b, 2:].sum()
        hissing[a:b] = share < FLAT_SHARE and not _is_burst(features.high, total, a, b)
    return hissing


def _averaged(features: AirFeatures, frames: int) -> AirFeatures:
    """Features without the flicker of single short frames."""
    filtered = (scipy.ndimage.uniform_filter1d(values, frames, axis=0) for values in vars(features).values())
    return AirFeatures(*filtered)


def _is_burst(high: Floats, total: Floats, a: int, b: int) -> bool:
    """Whether hiss over frames [a, b) is the burst of a stop (t): short, and at once out of the closure's silence."""
    if (b - a) * HOP_S >= BURST_MAX_S:
        return False
    before = total[max(0, a - BURST_FRAMES) : a + 1]
    level = gain_to_db(np.sqrt(high[max(0, a - BURST_FRAMES) : b]))
    rise = float((level[2:] - level[:-2]).max(initial=0.0))
    return bool(total[a:b].max() - before.min() > CLOSURE_DB and rise > BURST_RISE_DB)


def _mel(hz: float) -> float:
    return 2595.0 * float(np.log10(1.0 + hz / 700.0))


def air_spectrum(audio: Samples, sample_rate: int, n_frames: int) -> NDArray[np.uint8]:
    """Energy over time and pitch of shape (n,) audio: half decibels over −120 dBFS in 24 bands, shape (n_frames, 24).

    The bands are equally wide on the mel scale, 80 Hz to 16 kHz.
    """
    out = np.zeros((n_frames, SPECTRUM_BANDS), dtype=np.uint8)
    mel = np.linspace(_mel(SPECTRUM_HZ[0]), _mel(SPECTRUM_HZ[1]), SPECTRUM_BANDS + 1)
    borders = 700.0 * (10.0 ** (mel / 2595.0) - 1.0)
    for frames, spectrum, freq in short_spectra(audio, sample_rate, n_frames):
        edges = np.searchsorted(freq, borders)
        total = np.concatenate((np.zeros((len(frames), 1)), np.cumsum(spectrum, axis=1, dtype=np.float64)), axis=1)
        low, high = np.minimum(edges[:-1], len(freq) - 1), np.minimum(np.maximum(edges[1:], edges[:-1] + 1), len(freq))
        level = gain_to_db(np.sqrt(np.maximum(total[:, high] - total[:, low], 0.0)))
        level[:, borders[:-1] >= sample_rate / 2] = -120.0
        out[frames] = np.clip(np.round(2.0 * (level + 120.0)), 0, 255).astype(np.uint8)
    return out


def high_level(features: AirFeatures) -> Floats:
    """Level above 5 kHz in dBFS, shape (n,)."""
    return gain_to_db(np.sqrt(features.high))


def voice_level(features: AirFeatures) -> Floats:
    """Level below 2.5 kHz in dBFS, shape (n,): sibilants and breaths hardly show in it."""
    return gain_to_db(np.sqrt(features.power[:, :2].sum(axis=1)))


def describe_air(
    event_id: str, kind: AirKind, a: int, b: int, level_db: Floats, high_db: Floats, *, voiced: bool = False
) -> AirEvent:
    """The event over frames [a, b) with its levels."""
    levels = [mean_level(values[a:b]) if b > a and len(values) >= b else -120.0 for values in (level_db, high_db)]
    return AirEvent(event_id, kind, a * HOP_S, b * HOP_S, levels[0], levels[1], voiced)


def _follow_out(a: int, b: int, sounding: NDArray[np.bool_]) -> tuple[int, int]:
    """Edges moved outwards while something is still there: a breath swells out of nothing."""
    reach = int(EDGE_REACH_S / HOP_S)
    first, last = a, b
    while first > max(0, a - reach) and sounding[first - 1]:
        first -= 1
    while last < min(len(sounding), b + reach) and sounding[last]:
        last += 1
    return first, last


def _in_a_word(a: int, b: int, voiced: NDArray[np.bool_]) -> bool:
    """Whether a sound over frames [a, b) lies between two voices like a long f or h: nobody breathes in so short."""
    beside = voiced[max(0, a - BESIDE_FRAMES) : a].any() and voiced[b : b + BESIDE_FRAMES].any()
    return bool(beside) and (b - a) * HOP_S < IN_WORD_S


def _with_closure(a: int, voiced: NDArray[np.bool_], taken: NDArray[np.bool_]) -> int:
    """The start of a consonant with the silence before its burst, when a voice ends into it."""
    before = np.flatnonzero(taken[max(0, a - int(CLOSURE_S / HOP_S)) : a])
    if len(before) == 0:
        return a
    end = max(0, a - int(CLOSURE_S / HOP_S)) + int(before[-1]) + 1
    return end if voiced[end - 1] else a


def _voiced_fricatives(
    features: AirFeatures, voiced: NDArray[np.bool_], total: Floats, hissing: NDArray[np.bool_]
) -> list[tuple[int, int, AirKind]]:
    """Stretches inside the voice with hiss over it: more above 4.5 kHz than between 1 and 4.5 kHz (z, zh: sibilants)
    or nearly as much with a flat spectrum, while the voice is down (v: consonants)."""
    middle, top = features.power[:, 1:3].sum(axis=1), features.power[:, 3]
    around = scipy.ndimage.maximum_filter1d(np.where(voiced, total, -120.0), int(VOICED_AROUND_S / HOP_S) | 1)
    heard = gain_to_db(np.sqrt(top)) > around - HISS_UNDER_VOICE_DB
    hiss = _settled(voiced & heard & (top > HISS_OVER_MIDDLE * middle))
    found: list[tuple[int, int, AirKind]] = []
    for a, b in runs(hiss):
        part = features.power[a:b].sum(axis=0)
        down = gain_to_db(np.sqrt(part[:3].sum() / (b - a))) < around[a:b].max() - VOICE_DOWN_DB
        voiceless = hissing[max(0, a - 2) : b + 2].any()  # the voice only ends, or begins, under a plain sibilant
        if not VOICED_MIN_S <= (b - a) * HOP_S <= VOICED_MAX_S or not down or voiceless:
            continue
        flat = part[1] > FLAT_SHARE * part[2:].sum()
        found.append((a, b, "consonant" if flat else "sibilant"))
    return found


def _is_bright(features: AirFeatures, doubt: float = 1.0) -> NDArray[np.bool_]:
    """Hiss above 2.5 kHz with little below it: weaker fricatives reach further down; rumble does not count.

    `doubt` over 1 lets more through.
    """
    high = features.power[:, 2:].sum(axis=1)
    little = features.power[:, 1] < doubt * LOW_SHARE * high
    return (
        little & (features.power[:, 0] < doubt * RUMBLE_SHARE * high) & (features.centroid_hz > BRIGHT_HZ / doubt**0.2)
    )


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
    return scipy.ndimage.binary_opening(scipy.ndimage.binary_closing(mask, np.ones(5)), np.ones(3))


def _deep_inside(voiced: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Voiced frames more than 15 ms from an edge: brightness there belongs to the voice."""
    return scipy.ndimage.binary_erosion(voiced, np.ones(7))
