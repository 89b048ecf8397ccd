"""Move the harmonics of a voice to new frequencies while the vocal tract stays.

Everything happens on a grid with a fixed number of points per glottal cycle.
There a cycle's harmonics are the Fourier coefficients of a windowed mean over
neighbouring cycles; the new harmonics are read from the old ones and played
back on the new cycle grid.

A voiced sound is a source times a tract (G. Fant, Acoustic Theory of Speech
Production, 1960). The tract belongs to frequency, the source to the number of
the harmonic: a pulse keeps its shape relative to its period when the pitch
moves (G. Fant, "The LF-model revisited", STL-QPSR 2-3/1995).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy
from numpy.typing import NDArray

from ..signal.interpolation import read_between
from ..signal.signal_tools import smoothstep
from ..signal.types import Floats
from .glottal import lf_pulse
from .pitch_marks import cycle_phase

WINDOW_CYCLES = 6
FLATNESS = 0.5  # share of the window's second moment taken away, so that vibrato and swells pass unsmoothed
SOURCE_SHARE = 0.0  # real singers do not brighten with pitch at one loudness, see docs/benchmark.md
SHELF_HZ, SHELF_GAIN, LOUD_CYCLES = 1682.0, 2.51, 7
# A fundamental moved so many times as high takes the first resonance along where it would fall by more than this.  With
# less it helped a real voice further (dB over 1.5 kHz) and was further from our own singer's octave.
FOLLOWS, FALLS = (1.2, 1.8), 4.0
GAINS = (0.3, 6.0)  # beyond which a cycle is a faint one between others
MODAL_RD = 1.0  # LF shape of a modal voice
_GUARD = 4
_TINY = 1e-12


@dataclass(frozen=True)
class CycleHarmonics:
    """Harmonics of one channel around consecutive marks.

    Attributes
    ----------
    spectrum : ndarray of complex, shape (n_marks, n_harmonics + 1)
        Fourier coefficients of one cycle that starts at the mark.
    points : int
        Grid points per cycle.
    """

    spectrum: NDArray[np.complex128]
    points: int


def grid_points(marks: Floats) -> int:
    """Points per cycle, a power of two, that keep the full band of the longest cycle."""
    longest = float(np.max(np.diff(marks)))
    return int(2 ** np.ceil(np.log2(max(longest * 1.05, 16.0))))


def measure_harmonics(channel: Floats, marks: Floats, first: int, last: int, points: int) -> CycleHarmonics:
    """Harmonics at marks first..last (inclusive) of `channel`, shape (n,)."""
    reach = WINDOW_CYCLES // 2
    low, high = first - reach, last + reach
    known = np.arange(len(marks), dtype=np.float64)
    cycles = np.arange(low * points, (high + 1) * points) / points
    inside = np.clip(cycles, 0, len(marks) - 1)
    positions = np.interp(inside, known, marks) if len(marks) < 4 else _positions(marks, inside)
    before, after = marks[1] - marks[0], marks[-1] - marks[-2]
    positions = (
        positions
        + np.where(cycles < 0, cycles * before, 0)
        + np.where(cycles > known[-1], (cycles - known[-1]) * after, 0)
    )
    signal = read_between(channel, positions).reshape(-1, points)
    window = _window(points)
    count = last - first + 1
    folded = np.zeros((count, points))
    for c in range(WINDOW_CYCLES):
        folded += signal[c : c + count] * window[c]
    return CycleHarmonics(scipy.fft.rfft(folded, axis=1) / points, points)


@lru_cache(maxsize=16)
def _window(points: int) -> Floats:
    """Weights over the cycles around a mark, shape (WINDOW_CYCLES, points).

    A bell of whole cycles convolved with one cycle, which shuts out every
    other steady harmonic, made flat in its middle by a negative second-order share.
    """
    length = WINDOW_CYCLES - 1
    half = (length * points) // 2
    place = np.arange(-half, half + 1) / points
    bell = 0.5 + 0.5 * np.cos(2.0 * np.pi * place / length)
    zeroth, second, fourth = bell.sum(), (bell * place**2).sum(), (bell * place**4).sum()
    cycle = 1.0 / 12.0  # second moment of the cycle it is convolved with
    wanted = (1.0 - FLATNESS) * (second / zeroth + cycle) - cycle
    bell *= 1.0 - (second - wanted * zeroth) / (fourth - wanted * second) * place**2
    whole = np.convolve(bell, np.ones(points))[: WINDOW_CYCLES * points]
    whole = np.pad(whole, (0, WINDOW_CYCLES * points - len(whole)))
    weights = (whole * (points / whole.sum())).reshape(WINDOW_CYCLES, points)
    weights.flags.writeable = False
    return weights


@lru_cache(maxsize=16)
def _source_level(size: int) -> Floats:
    """Natural logarithm of a modal source's harmonics, shape (size,); what stands at 0 is the first one's."""
    strength = np.abs(np.fft.rfft(lf_pulse(MODAL_RD, points=4 * size)))[:size]
    strength[0] = strength[1]
    level = np.log(strength)
    level.flags.writeable = False
    return level


def _positions(marks: Floats, cycles: Floats) -> Floats:
    """Sample positions at fractional cycle counts: the inverse of `cycle_phase`, good to 1e-6 samples."""
    guess = np.interp(cycles, np.arange(len(marks)), marks)
    low, high = int(np.floor(guess[0])), int(np.ceil(guess[-1])) + 1
    samples = np.arange(low, high + 1, dtype=np.float64)
    return np.interp(cycles, cycle_phase(marks, samples), samples)


def play_cycles(spectrum: NDArray[np.complex128], points: int, phase: Floats) -> Floats:
    """Sound of changing cycles: row j of `spectrum` holds at phase j, with a linear blend to row j + 1.

    Parameters
    ----------
    spectrum : ndarray of complex, shape (n_cycles, size)
    points : int
        Grid points per cycle.
    phase : ndarray, shape (n_samples,)
        Cycle count of every output sample, relative to row 0.
    """
    cycles = scipy.fft.irfft(spectrum * points, n=points, axis=1)
    ramp = np.arange(points) / points
    blended = cycles[:-1] * (1.0 - ramp) + cycles[1:] * ramp
    lead = np.tile(cycles[0], _GUARD)
    tail = np.tile(cycles[-1], _GUARD)
    signal = np.concatenate((lead, blended.ravel(), tail))
    return read_between(signal, (phase + _GUARD) * points)


def swap_harmonics(
    spectrum: NDArray[np.complex128],
    ratio: Floats,
    *,
    formant: Floats,
    cycle_hz: Floats,
    nyquist_hz: float,
    source_share: float = SOURCE_SHARE,
) -> NDArray[np.complex128]:
    """New coefficients for cycles whose frequency is `ratio` times the old one.

    Harmonic k of the new sound takes the tract from ``k * ratio / formant``
    between the old harmonics, by cubic interpolation of log amplitude, and
    the source's share from its own number.

    Parameters
    ----------
    spectrum : ndarray of complex, shape (n, size)
        Old coefficients.
    ratio : ndarray, shape (n,)
        New over old fundamental.
    formant : ndarray, shape (n,)
        New over old frequency of the tract's resonances.
    cycle_hz : ndarray, shape (n,)
        Old fundamental in Hz.
    nyquist_hz : float
        Harmonics beyond 98 % of it are left out.
    source_share : float
        How much of a modal source goes with the number of the harmonic, 0 to 1; the rest stays with the tract.
    """
    n, size = spectrum.shape
    source = source_share * _source_level(size)
    tract = np.log(np.abs(spectrum) + _TINY) - source
    angle = np.unwrap(np.angle(spectrum[:, 1:]), axis=1)
    index = np.arange(size, dtype=np.float64)
    place = index[None] * (ratio / formant)[:, None]
    row = np.arange(n)[:, None]
    level = _cubic(tract, row, np.clip(place, 1.0, size - 1.0)) + source
    rise = (source[2] - source[1]) / np.log(2.0)  # below the first harmonic the sung level is held, source and all
    level -= rise * np.log(np.clip(place, 0.25, 1.0))
    level[:, 1] += _following_resonance(tract, level[:, 1], place[:, 1])
    slope_at = np.clip(place.astype(np.int64) - 1, 0, size - 3)
    turn = angle[row, slope_at] + (np.clip(place, 0.3, size - 1.0) - 1.0 - slope_at) * (
        angle[row, slope_at + 1] - angle[row, slope_at]
    )
    result = np.exp(level + 1j * turn)
    too_high = index[None] * (cycle_hz * ratio)[:, None] > 0.98 * nyquist_hz
    result[too_high | (place > size - 1.0)] = 0.0
    result[:, 0] = 0.0
    return result * _as_loud(spectrum, result, cycle_hz, cycle_hz * ratio)[:, None]


def _following_resonance(tract: Floats, level: Floats, place: Floats) -> Floats:
    """By how much the fundamental is raised where it is moved well above the first resonance: singers take that along.

    E. Joliveau, J. Smith and J. Wolfe, "Vocal tract resonances in singing: the soprano voice", J. Acoust. Soc. Am. 116,
    2004 (from memory).
    """
    number = np.arange(1, min(5, tract.shape[1]))
    passed = np.where(number[None] <= np.maximum(place, 1.0)[:, None], tract[:, number], -np.inf).max(axis=1)
    share = smoothstep((place - FOLLOWS[0]) / (FOLLOWS[1] - FOLLOWS[0]))
    return share * np.maximum(passed - level - np.log(FALLS), 0.0)


def _as_loud(old: NDArray[np.complex128], new: NDArray[np.complex128], old_hz: Floats, new_hz: Floats) -> Floats:
    """Gain of each new cycle that makes it as loud as the old one: a pitch is moved, not a level.

    Power is weighted as ITU-R BS.1770 weights it (its shelf of 4 dB above 1.7 kHz, as a smooth step), and followed over
    neighbouring cycles.
    """
    powers = []
    for spectrum, hz in ((old, old_hz), (new, new_hz)):
        bend = (np.arange(spectrum.shape[1])[None] * hz[:, None] / SHELF_HZ) ** 4
        weight = 1.0 + (SHELF_GAIN - 1.0) * bend / (1.0 + bend)
        powers.append(
            scipy.ndimage.uniform_filter1d((weight[:, 1:] * np.abs(spectrum[:, 1:]) ** 2).sum(axis=1), LOUD_CYCLES)
        )
    return np.clip(np.sqrt((powers[0] + _TINY) / (powers[1] + _TINY)), *GAINS)


def _cubic(values: Floats, row: NDArray[np.int64], place: Floats) -> Floats:
    """Rows of `values` read at fractional `place` >= 1 with Lagrange's four-point cubic; the ends repeat."""
    last = values.shape[1] - 1
    below = np.minimum(place.astype(np.int64), last - 1)
    u = place - below
    before, after = values[row, np.maximum(below - 1, 1)], values[row, np.minimum(below + 2, last)]
    here, there = values[row, below], values[row, below + 1]
    inner = (u + 1.0) * (u - 2.0) * ((u - 1.0) * here - u * there) / 2.0
    return inner + u * (u - 1.0) * ((u + 1.0) * after - (u - 2.0) * before) / 6.0
