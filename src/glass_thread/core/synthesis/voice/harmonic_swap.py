"""Move the harmonics of a voice to new frequencies while the vocal tract stays.

The new harmonics are read from the old ones, cycle by cycle, and played back on the new cycle grid.

A voiced sound is a source times a tract (G. Fant, Acoustic Theory of Speech Production, 1960). The tract belongs to
frequency, the source to the number of the harmonic: a pulse keeps its shape relative to its period when the pitch moves
(G. Fant, "The LF-model revisited", STL-QPSR 2-3/1995).
"""

from __future__ import annotations

from functools import lru_cache

import numba
import numpy as np
import scipy
from numpy.typing import NDArray

from ...signal.types import Floats
from .glottal import lf_pulse

SOURCE_SHARE = 0.0  # real singers do not brighten with pitch at one loudness, see docs/benchmark.md
SHELF_HZ, SHELF_GAIN, LOUD_CYCLES = 1682.0, 2.51, 7
# A fundamental moved so many times as high takes the first resonance along where it would fall by more than this.  With
# less it helped a real voice further (dB over 1.5 kHz) and was further from our own singer's octave.
FOLLOWS, FALLS = (1.2, 1.8), 4.0
GAINS = (0.3, 6.0)  # beyond which a cycle is a faint one between others
MODAL_RD = 1.0  # LF shape of a modal voice
_TOP = 0.98  # of half the sample rate
_TINY = 1e-12


@lru_cache(maxsize=16)
def _source_level(size: int) -> Floats:
    """Natural logarithm of a modal source's harmonics, shape (size,); what stands at 0 is the first one's."""
    strength = np.abs(np.fft.rfft(lf_pulse(MODAL_RD, points=4 * size)))[:size]
    strength[0] = strength[1]
    level = np.log(strength)
    level.flags.writeable = False
    return level


@numba.njit(cache=True, nogil=True)
def _cubic(values, place):  # pragma: no cover - compiled
    """`values` read at fractional `place` >= 1 with Lagrange's four-point cubic; the ends repeat."""
    last = len(values) - 1
    below = min(int(place), last - 1)
    u = place - below
    before, after = values[max(below - 1, 1)], values[min(below + 2, last)]
    here, there = values[below], values[below + 1]
    inner = (u + 1.0) * (u - 2.0) * ((u - 1.0) * here - u * there) / 2.0
    return inner + u * (u - 1.0) * ((u + 1.0) * after - (u - 2.0) * before) / 6.0


@numba.njit(cache=True, nogil=True)
def _read_cycle(cycle, end, source, tract, angle):  # pragma: no cover - compiled
    """Logarithm of the amplitude without the source's share, and unwrapped angle, of each harmonic before `end`."""
    for k in range(1, end):
        re, im = cycle[k].real, cycle[k].imag
        tract[k] = 0.5 * np.log(re * re + im * im + _TINY * _TINY) - source[k]
        turn = np.arctan2(im, re)
        if k > 1:
            turn -= 2.0 * np.pi * np.rint((turn - angle[k - 1]) / (2.0 * np.pi))
        angle[k] = turn


@numba.njit(cache=True, nogil=True)
def _following_resonance(tract, level, place):  # pragma: no cover - compiled
    """By how much the fundamental is raised where it is moved well above the first resonance: singers take that along.

    E. Joliveau, J. Smith and J. Wolfe, "Vocal tract resonances in singing: the soprano voice", J. Acoust. Soc. Am. 116,
    2004 (from memory).
    """
    u = min(max((place - FOLLOWS[0]) / (FOLLOWS[1] - FOLLOWS[0]), 0.0), 1.0)
    passed = tract[1]
    for number in range(2, min(5, len(tract))):
        if number <= place:
            passed = max(passed, tract[number])
    return u * u * (3.0 - 2.0 * u) * max(passed - level - np.log(FALLS), 0.0)


@numba.njit(cache=True, nogil=True)
def _swap(spectrum, stretch, old_hz, new_hz, source, top_hz, out, powers):  # pragma: no cover - compiled
    """Fill `out` cycle by cycle, and `powers`, as loudness weighs them, of the old and the new cycles."""
    n, size = spectrum.shape
    tract, angle = np.zeros(size), np.zeros(size)
    rise = (source[2] - source[1]) / np.log(2.0)  # below the first harmonic the sung level is held, source and all
    for i in range(n):
        # Those above the highest that is read are half of all for a high voice, whose grid has room for low ones.
        highest = min(top_hz / new_hz[i], size - 1.0) * stretch[i]
        _read_cycle(spectrum[i], min(size, int(highest) + 4), source, tract, angle)
        for k in range(1, size):
            powers[0, i] += _weight(k * old_hz[i]) * (spectrum[i, k].real ** 2 + spectrum[i, k].imag ** 2)
            place = k * stretch[i]
            if k * new_hz[i] > top_hz or place > size - 1.0:
                continue
            level = _cubic(tract, max(place, 1.0)) + source[k]
            if place < 1.0:
                level -= rise * np.log(max(place, 0.25))
            if k == 1:
                level += _following_resonance(tract, level, place)
            below = min(max(int(place), 1), size - 2)
            turn = angle[below] + (max(place, 0.3) - below) * (angle[below + 1] - angle[below])
            amplitude = np.exp(level)
            out[i, k] = amplitude * complex(np.cos(turn), np.sin(turn))
            powers[1, i] += _weight(k * new_hz[i]) * amplitude * amplitude


@numba.njit(cache=True, nogil=True)
def _weight(hz):  # pragma: no cover - compiled
    """Of a partial's power in loudness: the shelf of ITU-R BS.1770, 4 dB above 1.7 kHz, as a smooth step."""
    bend = (hz / SHELF_HZ) ** 4
    return 1.0 + (SHELF_GAIN - 1.0) * bend / (1.0 + bend)


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

    Harmonic k of the new sound takes the tract from ``k * ratio / formant`` between the old harmonics, by cubic
    interpolation of log amplitude, and the source's share from its own number.  Each cycle is made as loud as the old
    one, followed over neighbouring cycles: a pitch is moved, not a level.

    Parameters
    ----------
    spectrum : ndarray of complex, shape (n, size)
        Old coefficients; size at least 3.
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
    result, powers = np.zeros_like(spectrum), np.zeros((2, len(spectrum)))
    source = source_share * _source_level(spectrum.shape[1])
    _swap(spectrum, ratio / formant, cycle_hz, cycle_hz * ratio, source, _TOP * nyquist_hz, result, powers)
    old, new = scipy.ndimage.uniform_filter1d(powers, LOUD_CYCLES, axis=1)
    result *= np.clip(np.sqrt((old + _TINY) / (new + _TINY)), *GAINS)[:, None]
    return result
