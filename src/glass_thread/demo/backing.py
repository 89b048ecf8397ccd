"""The demo's backing: soft chords, bass and light percussion in D minor."""

from __future__ import annotations

import numpy as np
import scipy

from ..core.signal.types import Floats
from ..core.signal.units import midi_to_hz
from .song import BEAT_S, BEATS_PER_BAR, DURATION_S

_CHORDS = ((38, (62, 65, 69)), (34, (58, 62, 65)), (41, (60, 65, 69)), (36, (60, 64, 67)))
_BARS = 20


def _add(track: Floats, sound: Floats, at_s: float, sample_rate: int) -> None:
    a = int(at_s * sample_rate)
    track[a : a + len(sound)] += sound[: max(0, len(track) - a)]


def _pad(hz: float, seconds: float, sample_rate: int) -> Floats:
    t = np.arange(int(seconds * sample_rate)) / sample_rate
    tone = sum(np.sin(2 * np.pi * hz * k * t) / k**2 for k in (1, 2, 3, 4, 6))
    return tone * np.minimum(1.0, t / 0.08) * np.minimum(1.0, (seconds - t) / 0.25)


def _bass(hz: float, seconds: float, sample_rate: int) -> Floats:
    t = np.arange(int(seconds * sample_rate)) / sample_rate
    return (np.sin(2 * np.pi * hz * t) + 0.3 * np.sin(4 * np.pi * hz * t)) * np.exp(-t / 0.7) * np.minimum(1, t / 0.006)


def _tick(rng: np.random.Generator, sample_rate: int) -> Floats:
    n = int(0.05 * sample_rate)
    sos = scipy.signal.butter(2, [5000, 9000], "band", fs=sample_rate, output="sos")
    return scipy.signal.sosfilt(sos, rng.standard_normal(n)) * np.exp(-np.arange(n) / (0.012 * sample_rate))


def play(sample_rate: int) -> Floats:
    """Stereo samples of the backing, shape (2, n)."""
    rng = np.random.default_rng(2040)
    n = int(DURATION_S * sample_rate)
    left, right = np.zeros(n), np.zeros(n)
    bar_s = BEATS_PER_BAR * BEAT_S
    for bar in range(_BARS):
        root, chord = _CHORDS[bar % 4]
        for i, midi in enumerate(chord):
            tone = 0.045 * _pad(float(midi_to_hz(midi)), bar_s, sample_rate)
            _add(left, tone * (1.0 - 0.25 * i), bar * bar_s, sample_rate)
            _add(right, tone * (0.5 + 0.25 * i), bar * bar_s, sample_rate)
        for beat in (0.0, 2.5):
            tone = 0.16 * _bass(float(midi_to_hz(root)), BEAT_S * 1.5, sample_rate)
            _add(left, tone, bar * bar_s + beat * BEAT_S, sample_rate)
            _add(right, tone, bar * bar_s + beat * BEAT_S, sample_rate)
        for beat in range(BEATS_PER_BAR):
            hit = (0.05 if beat % 2 else 0.025) * _tick(rng, sample_rate)
            _add(left, hit, bar * bar_s + beat * BEAT_S, sample_rate)
            _add(right, hit * 0.8, bar * bar_s + beat * BEAT_S, sample_rate)
    return np.stack((left, right))
