"""Move the harmonics of a voice to new frequencies while the spectral envelope stays.

Everything happens on a grid with a fixed number of points per glottal cycle.
There a cycle's harmonics are the Fourier coefficients of a windowed mean over
neighbouring cycles; the new harmonics are read from the old ones along log
amplitude and unwrapped phase, and played back on the new cycle grid.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy.fft as fft
from numpy.typing import NDArray

from .interpolation import read_between
from .pitch_marks import cycle_phase
from .types import Floats

WINDOW_CYCLES = 6
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
    offset = (np.arange(-reach * points, reach * points) / points).reshape(WINDOW_CYCLES, points)
    window = 0.5 + 0.5 * np.cos(2.0 * np.pi * offset / WINDOW_CYCLES)
    window /= WINDOW_CYCLES / 2
    count = last - first + 1
    folded = np.zeros((count, points))
    for c in range(WINDOW_CYCLES):
        folded += signal[c : c + count] * window[c]
    return CycleHarmonics(fft.rfft(folded, axis=1) / points, points)


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
    cycles = fft.irfft(spectrum * points, n=points, axis=1)
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
    cycle_hz: Floats,
    nyquist_hz: float,
) -> NDArray[np.complex128]:
    """New coefficients for cycles whose frequency is `ratio` times the old one.

    The envelope is read at ``k * ratio`` between the old harmonics, and
    scaled by `ratio`: as many more pulses a second, as much more amplitude.

    Parameters
    ----------
    spectrum : ndarray of complex, shape (n, size)
        Old coefficients.
    ratio : ndarray, shape (n,)
        New over old fundamental.
    cycle_hz : ndarray, shape (n,)
        Old fundamental in Hz.
    nyquist_hz : float
        Harmonics beyond 98 % of it are left out.
    """
    n, size = spectrum.shape
    amplitude = np.log(np.abs(spectrum) + _TINY)
    angle = np.unwrap(np.angle(spectrum[:, 1:]), axis=1)
    index = np.arange(size, dtype=np.float64)
    place = index[None] * ratio[:, None]
    usable = np.clip(place, 1.0, size - 1.0)
    below = np.minimum(usable.astype(np.int64), size - 2)
    share = usable - below
    row = np.arange(n)[:, None]
    level = amplitude[row, below] * (1 - share) + amplitude[row, below + 1] * share
    slope_at = np.clip(below - 1, 0, size - 3)
    turn = angle[row, slope_at] + (np.clip(place, 0.3, size - 1.0) - 1.0 - slope_at) * (
        angle[row, slope_at + 1] - angle[row, slope_at]
    )
    result = np.exp(level + 1j * turn) * ratio[:, None]
    too_high = index[None] * (cycle_hz * ratio)[:, None] > 0.98 * nyquist_hz
    result[too_high | (place > size - 1.0)] = 0.0
    result[:, 0] = 0.0
    return result
