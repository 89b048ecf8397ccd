"""Growl: a rough voice whose cycles differ by turns is read an octave too low, as it repeats exactly only every second
one.

What such a voice has between its harmonics stays far below them, along the whole note; a voice that is truly so low has
all its harmonics at like levels. (X. Sun, "Pitch determination and voice quality analysis using
subharmonic-to-harmonic ratio", ICASSP 2002, whose listeners hear the higher octave while the ratio is under 0.2.)
"""

from __future__ import annotations

import itertools
import math

import numba
import numpy as np
from numpy.typing import NDArray

from ...signal.signal_tools import runs_between_leaps
from ...signal.types import HOP_S, Floats

# In the median of a note, and in nine tenths of it; true notes of few harmonics come down to −7.2 and −6.4.
BETWEEN_DB, MOSTLY_DB = -8.0, -5.5
LIKELY_DB = -5.0  # where others are growled without doubt
LEAST_S, HIGHEST_HZ = 0.15, 350.0
HARMONICS, TOP_HZ, PERIODS, EACH = 16, 5000.0, 4, 6  # read in every sixth frame, over four periods
LEAP_OCTAVES = 0.8


def raise_growled(audio: NDArray[np.float32], rate: int, hz: Floats) -> Floats:
    """First estimates, shape (n_frames,), 0 unvoiced, with growled notes an octave higher; `audio` at `rate`.

    Where some are growled without doubt, others are believed sooner, when an octave up brings them to the rest.
    """
    hz = hz.copy()
    octaves = np.log2(hz, out=np.full(len(hz), np.nan), where=hz > 0)
    parts = [part for part in runs_between_leaps(octaves, LEAP_OCTAVES) if _may_be_growled(hz, *part)]
    between = np.array([_between_harmonics(audio, rate, hz, *part) for part in parts]).reshape(-1, 2)
    growled = (between[:, 0] < BETWEEN_DB) & (between[:, 1] < MOSTLY_DB)
    for a, b in itertools.compress(parts, growled):
        hz[a:b] *= 2.0
    if growled.any():
        usual = float(np.median(hz[hz > 0]))
        for a, b in itertools.compress(parts, ~growled & (between[:, 0] < LIKELY_DB)):
            if abs(np.log2(2.0 * np.median(hz[a:b]) / usual)) < abs(np.log2(np.median(hz[a:b]) / usual)):
                hz[a:b] *= 2.0
    return hz


def _may_be_growled(hz: Floats, a: int, b: int) -> bool:
    return (b - a) * HOP_S >= LEAST_S and float(np.median(hz[a:b])) < HIGHEST_HZ


def _between_harmonics(audio: NDArray[np.float32], rate: int, hz: Floats, a: int, b: int) -> tuple[float, float]:
    """What lies between the harmonics of twice the pitch, in dB under them: in the median of frames [a, b), and in nine
    tenths; 0 where nothing can be said."""
    frames = np.arange(a, b, EACH)
    found = np.full(len(frames), np.nan)
    _odd_under_even(audio, rate, frames * HOP_S, hz[frames], found)
    known = found[np.isfinite(found)]
    return (float(np.median(known)), float(np.percentile(known, 90))) if len(known) else (0.0, 0.0)


@numba.njit(cache=True, nogil=True, fastmath=True)
def _odd_under_even(x, rate, times, hz, out):  # pragma: no cover - compiled
    """By how many dB odd harmonics from the third on lie over the mean of their neighbours, the strong ones counting
    more; in place of NaN where there is sound enough."""
    level = np.empty(HARMONICS + 1)
    part = np.empty(int(PERIODS * rate / hz.min()) + 1)
    for i in range(len(times)):
        n = int(PERIODS * rate / hz[i])
        first = int(times[i] * rate) - n // 2
        most = min(HARMONICS, int(TOP_HZ / hz[i]))
        if first < 0 or first + n > len(x) or most < 4:
            continue
        for j in range(n):
            part[j] = x[first + j] * (0.5 - 0.5 * math.cos(2.0 * math.pi * (j + 0.5) / n))
        for k in range(2, most + 1):
            step = 2.0 * math.pi * k * hz[i] / rate
            turn_re, turn_im, re, im, sum_re, sum_im = math.cos(step), math.sin(step), 1.0, 0.0, 0.0, 0.0
            for j in range(n):
                sum_re += part[j] * re
                sum_im += part[j] * im
                re, im = re * turn_re - im * turn_im, re * turn_im + im * turn_re
            level[k] = math.sqrt(sum_re * sum_re + sum_im * sum_im) + 1e-9
        total, mass = 0.0, 0.0
        for k in range(3, most, 2):
            strong = max(level[k - 1], level[k + 1])
            total += strong * 20.0 * (math.log10(level[k]) - 0.5 * math.log10(level[k - 1] * level[k + 1]))
            mass += strong
        if mass > 0.0:
            out[i] = total / mass
