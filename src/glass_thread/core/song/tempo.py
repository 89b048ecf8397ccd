"""Tempo, meter and bar 1 from the moments at which something begins.

The tempo is where a comb of harmonics of the onset strength's spectrum is strongest (G. Peeters, "Template-based
estimation of time-varying tempo", EURASIP Journal on Advances in Signal Processing, 2007), weighted by how usual it is
(the log-Gaussian of D. P. W. Ellis, "Beat tracking by dynamic programming", Journal of New Music Research 36, 2007),
and made finer over longer and longer stretches as long as the pulse holds.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from ..signal.types import Floats
from .onsets import ONSET_HOP_S, Onsets

SLOWEST_BPM, FASTEST_BPM = 40.0, 220.0
USUAL_BPM, USUAL_OCTAVES = 100.0, 0.6
WINDOW_S, GRID_HZ = 12.0, 0.002
HARMONICS = 4
SHORTEST_S = 6.0  # below this nothing is said
STILL_HOLDS = 0.7  # of the comb's strength over shorter stretches, for a longer one to be believed
AGREE = 0.02  # share of the tempo within which a stretch says the same
METERS, FOUR_BONUS = (3, 4), 0.15
FEWEST_BEATS = 12


@dataclass(frozen=True)
class Tempo:
    """Beats a minute, beats in a bar, and where bar 1 begins in seconds."""

    bpm: float
    beats_per_bar: int
    bar_one_s: float


@dataclass(frozen=True)
class TempoEstimate:
    """The tempo that is heard, its half, its double and what fits better but is less usual; how sure it is (0 to 1).

    `confidence` is the share of stretches of twelve seconds that by themselves give one of them.
    """

    tempos: tuple[Tempo, ...]
    confidence: float


def estimate_tempo(onsets: Onsets) -> TempoEstimate | None:
    """The steady tempo of a recording, or None where there is none to be heard."""
    pulse = _even(onsets.strength)
    if len(pulse) * ONSET_HOP_S < SHORTEST_S or not pulse.any():
        return None
    windows = _windows(pulse, WINDOW_S)
    combs = _combs(windows)
    hz = _grid()
    usual = np.exp(-0.5 * (np.log2(60.0 * hz / USUAL_BPM) / USUAL_OCTAVES) ** 2)
    found = float(hz[np.argmax(combs.mean(axis=0) * usual)])
    own = hz[np.argmax(combs * usual, axis=1)]
    agreeing = np.any([np.abs(own / (found * times) - 1.0) < AGREE for times in (0.5, 1.0, 2.0)], axis=0)
    heard = windows.any(axis=1)
    exact = _finer(pulse, found)
    confidence = float(np.sum(agreeing & heard) / (np.sum(heard) + 1.0))
    others = [times for times in (1.5, 2.0 / 3.0) if _at(combs, found * times) > _at(combs, found)]
    tempos = tuple(_tempo(onsets, pulse, exact * times) for times in (1.0, 0.5, 2.0, *others))
    return TempoEstimate(tempos, confidence)


def _at(combs: Floats, hz: float) -> float:
    """Strength of one tempo over all windows; 0 outside the grid."""
    place = round((hz - _grid()[0]) / GRID_HZ)
    return float(combs[:, place].mean()) if 0 <= place < combs.shape[1] else 0.0


def _tempo(onsets: Onsets, pulse: Floats, hz: float) -> Tempo:
    """A tempo of `hz` beats a second, with the meter and bar 1 that go with it."""
    beat = _first_beat(onsets, pulse, hz)
    meter, down = _meter(onsets, hz, beat)
    return Tempo(60.0 * hz, meter, float(beat + down / hz))


def _even(strength: Floats) -> Floats:
    """Onset strength over what is usual around it, without its mean: loud and soft passages count alike."""
    around = int(1.0 / ONSET_HOP_S)
    if len(strength) <= around:
        return np.zeros(0)
    mean = scipy.ndimage.uniform_filter1d(strength, around)
    loud = np.sqrt(scipy.ndimage.uniform_filter1d(strength**2, 8 * around))
    peaks = np.maximum(strength - mean, 0.0) / np.maximum(loud, 1e-3 * max(strength.max(), 1e-9))
    return peaks - peaks.mean() if peaks.any() else peaks


def _windows(pulse: Floats, length_s: float) -> Floats:
    """Stretches of a length, half overlapping, shape (count, n); the whole when it is shorter."""
    n = min(int(length_s / ONSET_HOP_S), len(pulse))
    starts = np.linspace(0, len(pulse) - n, max(1, round(2 * (len(pulse) - n) / n) + 1)).astype(int)
    return np.stack([pulse[start : start + n] for start in starts])


def _grid() -> Floats:
    return np.arange(SLOWEST_BPM / 60.0, FASTEST_BPM / 60.0, GRID_HZ)


def _combs(windows: Floats) -> Floats:
    """Strength of each tempo of the grid in each window: all of its first harmonics must be there.

    Shape (count, grid).
    """
    size = scipy.fft.next_fast_len(int(1.0 / (GRID_HZ * ONSET_HOP_S)))
    spectrum = np.abs(scipy.fft.rfft(windows * np.hanning(windows.shape[1]), size, axis=1))
    lines = [spectrum[:, np.round(k * _grid() * size * ONSET_HOP_S).astype(int)] for k in range(1, HARMONICS + 1)]
    return np.mean(np.sqrt(lines), axis=0) ** 2


def _finer(pulse: Floats, hz: float) -> float:
    """The tempo in Hz over stretches of doubling length, as long as the pulse stays in step."""
    length, reach = WINDOW_S, 2.0 / WINDOW_S / HARMONICS
    known = 0.0
    while True:
        windows = _windows(pulse, length)
        around = hz + np.linspace(-reach, reach, 81)
        comb = _comb_at(windows, around)
        best = int(np.argmax(comb))
        if comb[best] < STILL_HOLDS * known:
            return hz
        hz, known = float(around[best]), float(comb[best])
        if windows.shape[1] >= len(pulse):
            return hz
        reach = 0.5 / length
        length *= 2.0


def _comb_at(windows: Floats, hz: Floats) -> Floats:
    """Strength of evenly spaced tempos over the windows, for one sample of them, shape (tempos,)."""
    n, count = windows.shape[1], len(hz)
    taper = windows * np.hanning(n)
    total = np.zeros(count)
    for k in range(1, HARMONICS + 1):
        ends = (k * hz[0], k * hz[-1])
        total += np.abs(scipy.signal.zoom_fft(taper, ends, count, fs=1.0 / ONSET_HOP_S, endpoint=True)).mean(axis=0)
    return total / n


def _first_beat(onsets: Onsets, pulse: Floats, hz: float) -> float:
    """The first beat in seconds: where in its period the pulse is strongest."""
    time = np.arange(len(pulse)) * ONSET_HOP_S
    wave = sum(
        np.sum(pulse * np.exp(-2j * np.pi * k * hz * time)) * np.exp(2j * np.pi * k * np.arange(400) / 400)
        for k in range(1, HARMONICS + 1)
    )
    return float(np.argmax(np.real(wave)) / 400 / hz) + onsets.start_s


def _meter(onsets: Onsets, hz: float, beat: float) -> tuple[int, int]:
    """Beats in a bar, and which beat after `beat` is the first of bar 1: the first accented one once sound begins."""
    strength, low = onsets.strength, onsets.low
    count = int((len(strength) * ONSET_HOP_S + onsets.start_s - beat) * hz)
    places = ((beat - onsets.start_s + np.arange(max(count, 0)) / hz) / ONSET_HOP_S).round().astype(int)
    near = np.clip(places[:, None] + np.arange(-4, 5), 0, max(len(strength) - 1, 0))
    accents = low[near].max(axis=1) + 0.5 * strength[near].max(axis=1) if len(places) else np.zeros(0)
    sounding = np.flatnonzero(accents > 0.2 * accents.max()) if accents.any() else np.zeros(0, dtype=int)
    first = int(sounding[0]) if len(sounding) else 0
    if len(accents) - first < FEWEST_BEATS:
        return 4, first
    heard = accents[first:]
    best = max(METERS, key=lambda m: _accent(heard, m)[0] + (FOUR_BONUS if m == 4 else 0.0))
    return best, first + _accent(heard, best)[1]


def _accent(accents: Floats, meter: int) -> tuple[float, int]:
    """By how much the strongest beat of a bar stands out, in spreads of all beats, and which it is."""
    means = np.array([accents[k::meter].mean() for k in range(meter)])
    strongest = int(np.argmax(means))
    others = np.delete(means, strongest).mean()
    return float((means[strongest] - others) / max(accents.std(), 1e-9)), strongest
