"""A voice as changing cycles: its harmonics at each pitch mark, and the sound of such harmonics.

Everything happens on a grid with a fixed number of points per glottal cycle.  There a cycle's harmonics are the Fourier
coefficients of a windowed mean over neighbouring cycles.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numba
import numpy as np
import scipy
from numpy.typing import NDArray

from ...signal.interpolation import read_between
from ...signal.types import Floats
from .cycles import cycle_positions

_WINDOW_S = 0.028
_FEWEST, _MOST = 6, 12  # cycles of it
FLATNESS = 0.5  # share of the window's second moment taken away, so that vibrato and swells pass unsmoothed
_GUARD = 4


@dataclass(frozen=True)
class CycleGrid:
    """Where a voice is read: sample positions of neighbouring cycles, shape (cycles, points), and over how many of them
    the mean goes."""

    positions: Floats
    window: int

    @property
    def own(self) -> Floats:
        """Sample positions of the cycle that starts at each mark, shape (n_marks, points)."""
        reach = self.window // 2
        return self.positions[reach : len(self.positions) - reach]


def window_cycles(cycle_hz: Floats) -> int:
    """How many cycles a mean goes over in a run whose cycles come so often, shape (n,): an even number.

    In a high voice six are so short that breath near a harmonic moves it about.
    """
    slow_hz = float(np.percentile(cycle_hz, 10.0))
    return int(np.clip(2 * round(_WINDOW_S * slow_hz / 2.0), _FEWEST, _MOST))


def grid_points(marks: Floats) -> int:
    """Points per cycle, a power of two, that keep the full band of the longest cycle."""
    longest = float(np.max(np.diff(marks)))
    return int(2 ** np.ceil(np.log2(max(longest * 1.05, 16.0))))


def cycle_grid(marks: Floats, first: int, last: int, points: int, window: int) -> CycleGrid:
    """The cycles with a share in the harmonics at marks first..last, with so many points each."""
    reach = window // 2
    cycles = np.arange((first - reach) * points, (last + reach + 1) * points) / points
    positions = cycle_positions(marks, np.clip(cycles, 0, len(marks) - 1))
    if cycles[0] < 0:
        positions += np.minimum(cycles, 0) * (marks[1] - marks[0])
    if cycles[-1] > len(marks) - 1:
        positions += np.maximum(cycles - (len(marks) - 1), 0) * (marks[-1] - marks[-2])
    return CycleGrid(positions.reshape(-1, points), window)


def measure_harmonics(channel: Floats, grid: CycleGrid) -> NDArray[np.complex128]:
    """Harmonics of `channel`, shape (n,), at the marks that `grid` is of: Fourier coefficients of one cycle that starts
    there, shape (n_marks, n_harmonics + 1)."""
    count, points = grid.own.shape
    signal = read_between(channel, grid.positions.ravel()).reshape(grid.positions.shape)
    folded = np.zeros((count, points))
    _fold(signal, cycle_window(grid.window, points), folded)
    return np.asarray(scipy.fft.rfft(folded, axis=1, overwrite_x=True) / points)


@numba.njit(cache=True, nogil=True)
def _fold(signal, weights, out):  # pragma: no cover - compiled
    """Add up neighbouring cycles, each with its weights."""
    for i in range(out.shape[0]):
        for c in range(weights.shape[0]):
            for p in range(out.shape[1]):
                out[i, p] += signal[i + c, p] * weights[c, p]


@lru_cache(maxsize=32)
def cycle_window(cycles: int, points: int) -> Floats:
    """Weights over the cycles around a mark, shape (cycles, points).

    A bell of whole cycles convolved with one cycle, which shuts out every
    other steady harmonic, made flat in its middle by a negative second-order share.
    """
    length = cycles - 1
    half = (length * points) // 2
    place = np.arange(-half, half + 1) / points
    bell = 0.5 + 0.5 * np.cos(2.0 * np.pi * place / length)
    zeroth, second, fourth = bell.sum(), (bell * place**2).sum(), (bell * place**4).sum()
    cycle = 1.0 / 12.0  # second moment of the cycle it is convolved with
    wanted = (1.0 - FLATNESS) * (second / zeroth + cycle) - cycle
    bell *= 1.0 - (second - wanted * zeroth) / (fourth - wanted * second) * place**2
    whole = np.convolve(bell, np.ones(points))[: cycles * points]
    whole = np.pad(whole, (0, cycles * points - len(whole)))
    weights = (whole * (points / whole.sum())).reshape(cycles, points)
    weights.flags.writeable = False
    return weights


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
    signal = np.empty((len(cycles) - 1 + 2 * _GUARD, points))
    signal[:_GUARD], signal[-_GUARD:] = cycles[0], cycles[-1]
    _blend(cycles, signal[_GUARD:-_GUARD])
    return read_between(signal.ravel(), (phase + _GUARD) * points)


@numba.njit(cache=True, nogil=True)
def _blend(cycles, out):  # pragma: no cover - compiled
    """From each cycle straight over to the next one."""
    points = out.shape[1]
    for i in range(out.shape[0]):
        for p in range(points):
            share = p / points
            out[i, p] = cycles[i, p] * (1.0 - share) + cycles[i + 1, p] * share
