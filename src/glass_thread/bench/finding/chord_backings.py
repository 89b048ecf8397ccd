"""Backings whose chords are known: drawn progressions, played by instruments that are made here, with drums and a tune
that does not keep to the chords.  Nothing of it has a part in how chords are heard."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy

from ...core.signal.types import Floats
from ...core.signal.units import midi_to_hz

RATE = 22_050
BARS = 24
# Semitones over the root, by the name in the syntax of Harte et al. 2005.
QUALITIES = {"maj": (0, 4, 7), "min": (0, 3, 7), "7": (0, 4, 7, 10), "maj7": (0, 4, 7, 11), "min7": (0, 3, 7, 10),
             "dim": (0, 3, 6)}  # fmt: skip
_NAMES = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
# Degrees of a key with their usual chords: (semitones over the tonic, triad, seventh).
_MAJOR = ((0, "maj", "maj7"), (2, "min", "min7"), (4, "min", "min7"), (5, "maj", "maj7"), (7, "maj", "7"),
          (9, "min", "min7"), (10, "maj", "7"))  # fmt: skip
_MINOR = ((0, "min", "min7"), (3, "maj", "maj7"), (5, "min", "min7"), (7, "maj", "7"), (7, "min", "min7"),
          (8, "maj", "maj7"), (10, "maj", "7"))  # fmt: skip
Voice = Callable[[float, float, np.random.Generator], Floats]


@dataclass(frozen=True)
class Backing:
    """A recording, shape (n,), its beats a minute, and its chords as (start s, end s, label)."""

    name: str
    audio: Floats
    tempo: float
    chords: tuple[tuple[float, float, str], ...]


def _time(seconds: float) -> Floats:
    return np.arange(int(seconds * RATE)) / RATE


def _ends(sound: Floats, attack_s: float, release_s: float) -> Floats:
    t = np.arange(len(sound)) / RATE
    return sound * np.clip(t / attack_s, 0.0, 1.0) * np.clip((t[-1] - t) / release_s, 0.0, 1.0)


def _strings(hz: float, seconds: float, rng: np.random.Generator) -> Floats:
    """Three detuned saws through a soft filter."""
    t = _time(seconds)
    waves = [scipy.signal.sawtooth(2 * np.pi * hz * 2 ** (cents / 1200) * t + rng.uniform(0, 6.28)) for cents in
             (-6, 1, 7)]  # fmt: skip
    cut = scipy.signal.butter(2, min(6.0 * hz, 0.4 * RATE), fs=RATE, output="sos")
    return _ends(scipy.signal.sosfilt(cut, np.sum(waves, axis=0)), 0.12, 0.2) * 0.25


def _plucked(hz: float, seconds: float, rng: np.random.Generator) -> Floats:
    """Harmonics that die away the faster the higher they are, slightly stretched, as on a string."""
    t = _time(seconds)
    partials = range(1, max(2, min(20, int(0.45 * RATE / hz))))
    found = sum(rng.uniform(0.5, 1.0) / k * np.sin(2 * np.pi * hz * k * np.sqrt(1 + 2e-4 * k * k) * t)
                * np.exp(-t * (1.2 + 0.9 * k)) for k in partials)  # fmt: skip
    return _ends(np.asarray(found), 0.003, 0.03)


def _bells(hz: float, seconds: float, _rng: np.random.Generator) -> Floats:
    """A carrier bent by a fourteenth of it, as electric pianos sound."""
    t = _time(seconds)
    bend = 1.3 * np.exp(-t / 0.25) * np.sin(2 * np.pi * hz * 14 * t) * (hz * 15 < 0.5 * RATE)
    return _ends(np.sin(2 * np.pi * hz * t + bend) * np.exp(-t / 1.6) + 0.2 * np.sin(4 * np.pi * hz * t), 0.005, 0.05)


def _organ(hz: float, seconds: float, _rng: np.random.Generator) -> Floats:
    """Drawbars: sub-octave, fifth and octaves."""
    t = _time(seconds)
    bars = ((0.5, 0.5), (1.0, 1.0), (1.5, 0.35), (2.0, 0.8), (3.0, 0.3), (4.0, 0.4), (6.0, 0.15))
    shake = 1.0 + 0.1 * np.sin(2 * np.pi * 6.3 * t)
    return _ends(shake * sum(gain * np.sin(2 * np.pi * hz * k * t) for k, gain in bars), 0.02, 0.04) * 0.4


def _bass(hz: float, seconds: float, _rng: np.random.Generator) -> Floats:
    t = _time(seconds)
    return _ends(sum(np.sin(2 * np.pi * hz * k * t) / k**1.5 for k in range(1, 7)) * np.exp(-t / 0.9), 0.006, 0.03)


def _hum(hz: float, seconds: float, rng: np.random.Generator) -> Floats:
    """A tune as somebody would sing or blow it: with vibrato and breath."""
    t = _time(seconds)
    phase = 2 * np.pi * hz * t + 0.35 * np.sin(2 * np.pi * 5.4 * t)
    return _ends(sum(np.sin(k * phase) / k**1.3 for k in range(1, 9)) + 0.02 * rng.standard_normal(len(t)), 0.05, 0.06)


def _drums(length: int, beat_s: float, rng: np.random.Generator) -> Floats:
    out, t = np.zeros(length + RATE), np.arange(int(0.3 * RATE)) / RATE
    kick = np.sin(2 * np.pi * (48 * t + 30 * (1 - np.exp(-t / 0.03)))) * np.exp(-t / 0.1)
    noise = scipy.signal.sosfilt(
        scipy.signal.butter(2, 1500, "high", fs=RATE, output="sos"), rng.standard_normal(len(t))
    )
    for number in range(int(length / RATE / beat_s * 2)):
        at = int(number * beat_s / 2 * RATE)
        hit = 0.12 * noise * np.exp(-t / 0.02)
        if number % 4 == 0:
            hit = hit + 0.9 * kick
        if number % 4 == 2:
            hit = hit + 0.5 * noise * np.exp(-t / 0.09)
        out[at : at + len(t)] += hit
    return out[:length]


@dataclass(frozen=True)
class _Style:
    voice: Voice
    tempo: float
    minor: bool
    sevenths: float  # share of chords with one
    broken: bool
    half_bars: float  # share of bars with two chords
    off_cents: float
    drums: float
    tune: float
    inverted: float  # share of chords whose bass is not the root


STYLES = {
    "strings, triads": _Style(_strings, 76.0, False, 0.0, False, 0.1, 0.0, 0.0, 0.3, 0.2),
    "broken chords, plucked": _Style(_plucked, 104.0, True, 0.2, True, 0.0, 18.0, 0.2, 0.25, 0.1),
    "electric piano, sevenths": _Style(_bells, 88.0, False, 0.8, False, 0.3, -12.0, 0.3, 0.3, 0.25),
    "organ, 35 cents flat": _Style(_organ, 120.0, True, 0.3, False, 0.2, -35.0, 0.4, 0.3, 0.15),
    "plucked, fast, loud drums": _Style(_plucked, 138.0, False, 0.3, False, 0.15, 5.0, 1.0, 0.35, 0.1),
    "strings with sevenths, 30 cents sharp": _Style(_strings, 64.0, True, 0.7, True, 0.4, 30.0, 0.3, 0.35, 0.2),
}


def chord_backing(name: str, seed: int) -> Backing:
    """One of `STYLES` with a progression of its own."""
    style = STYLES[name]
    rng = np.random.default_rng([seed, list(STYLES).index(name)])
    beat_s = 60.0 / style.tempo
    out = np.zeros(int((BARS * 4 * beat_s + 1.0) * RATE))
    tonic, chords = int(rng.integers(12)), []
    for bar in range(BARS):
        parts = 2 if rng.random() < style.half_bars else 1
        for part in range(parts):
            begin, length = (4 * bar + 4 / parts * part) * beat_s, 4 / parts * beat_s
            degree, triad, seventh = (_MINOR if style.minor else _MAJOR)[rng.integers(7)]
            quality = seventh if rng.random() < style.sevenths else triad
            root = (tonic + degree) % 12
            _play(out, style, root, QUALITIES[quality], begin, length, beat_s, rng)
            chords.append((begin, begin + length, f"{_NAMES[root]}:{quality}"))
    scale = [(tonic + step) % 12 for step in ((0, 2, 3, 5, 7, 8, 10) if style.minor else (0, 2, 4, 5, 7, 9, 11))]
    _tune(out, style, scale, BARS * 4 * beat_s, beat_s, rng)
    out += style.drums * 0.5 * _drums(len(out), beat_s, rng)
    return Backing(name, 0.2 * out / max(float(np.abs(out).std()) * 3, 1e-9), style.tempo, tuple(chords))


def _add(out: Floats, sound: Floats, at_s: float) -> None:
    at = int(at_s * RATE)
    part = sound[: max(0, len(out) - at)]
    out[at : at + len(part)] += part


def _hz(midi: float, style: _Style) -> float:
    return float(midi_to_hz(midi + style.off_cents / 100.0))


def _play(
    out: Floats, style: _Style, root: int, steps: tuple[int, ...], begin: float, length: float, beat_s: float,
    rng: np.random.Generator,
) -> None:  # fmt: skip
    voicing = sorted({48 + (root + step) % 12 + 12 * int(rng.integers(0, 3)) for step in steps})
    low = root if rng.random() >= style.inverted else (root + steps[int(rng.integers(1, 3))]) % 12
    bass = 33 + (low - 33) % 12
    for at in (0.0, length / 2):
        _add(out, 1.1 * _bass(_hz(bass, style), length / 2, rng), begin + at)
    if not style.broken:
        for midi in voicing:
            _add(out, rng.uniform(0.5, 1.0) * style.voice(_hz(midi, style), length, rng), begin)
        return
    for number in range(round(length / beat_s * 2)):
        midi = voicing[number % len(voicing)]
        _add(out, style.voice(_hz(midi, style), 1.5 * beat_s, rng), begin + number * beat_s / 2)


def _tune(out: Floats, style: _Style, scale: list[int], length: float, beat_s: float, rng: np.random.Generator) -> None:
    """Steps of the scale up and down, whatever the chord is."""
    at, degree = 0.0, 0
    while at < length:
        lasts = beat_s * float(rng.choice((0.5, 1.0, 1.0, 2.0)))
        degree = int(np.clip(degree + rng.integers(-2, 3), -3, 9))
        midi = 72 + 12 * (degree // 7) + (scale[degree % 7] - scale[0]) % 12 + scale[0] - 6
        if rng.random() < 0.85:
            _add(out, 2.0 * style.tune * _hum(_hz(midi, style), 0.95 * lasts, rng), at)
        at += lasts
