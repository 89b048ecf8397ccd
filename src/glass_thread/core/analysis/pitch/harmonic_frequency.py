"""Fundamental frequency from the instantaneous frequencies of the harmonics.

Each harmonic's frequency is read from its phase derivative (the ratio of two
short-time transforms with a window and its derivative: F. Auger, P. Flandrin,
IEEE Trans. Signal Processing 43, 1995, eq. 12, from memory) and the readings are
averaged with weights from each harmonic's own signal-to-noise ratio, taken
against the power half-way to its neighbours.
"""

from __future__ import annotations

import math

import numba
import numpy as np

HARMONICS = 20
HIGHEST_HZ = 4500.0
SNR_KNEE = 100.0  # beyond this power ratio a harmonic counts fully
OUTLIER_SHARPNESS = 300.0  # readings 1/300 of f0 (6 cents) off the mean count half
TURNS_AHEAD = 16_000  # samples of the path's rotation worked out at a time
PERIODS_EACH_SIDE, MIN_HALF_S, MAX_HALF_S = 2.0, 0.012, 0.034


@numba.njit(cache=True, nogil=True)
def _weighted_mean(deltas, weights, count, f0):  # pragma: no cover - compiled
    """Mean of the readings in Hz, outliers weighed down over three rounds."""
    mean = 0.0
    for turn in range(3):
        total = 0.0
        mass = 0.0
        for k in range(1, count + 1):
            weight = weights[k]
            if turn > 0:
                off = (deltas[k] - mean) / f0 * OUTLIER_SHARPNESS
                weight = weight / (1.0 + off * off)
            total += weight * deltas[k]
            mass += weight
        mean = total / mass if mass > 0.0 else 0.0
    return mean


@numba.njit(cache=True, nogil=True, fastmath=True)
def _bell(half, rate, window, ratio):  # pragma: no cover - compiled
    """Hann window over ±half samples, and its derivative over itself."""
    for i in range(2 * half + 1):
        angle = math.pi * (i - half) / (half + 1)
        value = 0.5 + 0.5 * math.cos(angle)
        window[i] = value
        ratio[i] = -0.5 * math.pi / (half + 1) * math.sin(angle) * rate / max(value, 1e-12)


@numba.njit(cache=True, nogil=True, fastmath=True)
def _half_turns(path, turns, hop, rate, low, high):  # pragma: no cover - compiled
    """``exp(-iπ · cycles)`` along the path at samples [low, high): real and imaginary part."""
    re, im = np.empty(high - low, np.float32), np.empty(high - low, np.float32)
    last = len(path) - 2
    for i in range(high - low):
        frame = (low + i) / rate / hop
        whole = min(max(int(frame), 0), last)
        share = frame - whole
        cycles = turns[whole] + hop * share * (path[whole] + 0.5 * share * (path[whole + 1] - path[whole]))
        re[i] = math.cos(math.pi * cycles)
        im[i] = -math.sin(math.pi * cycles)
    return re, im


@numba.njit(cache=True, nogil=True, fastmath=True)
def _turn(z_re, z_im, step_re, step_im, ratio, n, sums):  # pragma: no cover - compiled
    """One half-harmonic further: turn z in place and sum it, plain and weighted, into `sums`."""
    a_re, a_im, b_re, b_im = np.float32(0.0), np.float32(0.0), np.float32(0.0), np.float32(0.0)
    for i in range(n):
        re = z_re[i] * step_re[i] - z_im[i] * step_im[i]
        im = z_re[i] * step_im[i] + z_im[i] * step_re[i]
        z_re[i] = re
        z_im[i] = im
        a_re += re
        a_im += im
        b_re += re * ratio[i]
        b_im += im * ratio[i]
    sums[0], sums[1], sums[2], sums[3] = a_re, a_im, b_re, b_im


@numba.njit(cache=True, nogil=True, fastmath=True)
def refine_by_harmonics(x, rate, hop, hz, path, most, out):  # pragma: no cover - compiled
    """Write the refined frequency of every frame with ``hz > 0`` into `out`.

    Parameters
    ----------
    x : ndarray of float32, shape (n,)
        Samples at `rate` Hz.
    hop : float
        Seconds between frames.
    hz, path : ndarray of float64, shape (n_frames,)
        First estimates in Hz (0 = skip), and the path in Hz, known everywhere, that the windows are bent along.
    most : int
        Harmonics used, up to `HARMONICS`.
    out : ndarray of float64, shape (n_frames,)
        Receives the frequency in Hz.
    """
    n = len(x)
    most_half = int(rate * MAX_HALF_S)
    width = 2 * most_half + 1
    step_re, step_im = np.empty(width, np.float32), np.empty(width, np.float32)
    z_re, z_im = np.empty(width, np.float32), np.empty(width, np.float32)
    windows, ratios = np.empty((most_half + 1, width), np.float32), np.empty((most_half + 1, width), np.float32)
    known = np.zeros(most_half + 1, np.bool_)
    sums, deltas, weights = np.empty(4), np.zeros(HARMONICS + 2), np.zeros(HARMONICS + 2)
    turns = np.zeros(len(path))
    for f in range(1, len(path)):
        turns[f] = turns[f - 1] + 0.5 * hop * (path[f - 1] + path[f])
    re, im = np.empty(0, np.float32), np.empty(0, np.float32)
    low = 0
    high = 0
    for f in range(len(hz)):
        f0 = hz[f]
        if not f0 > 0.0:
            continue
        half = int(rate * min(max(PERIODS_EACH_SIDE / f0, MIN_HALF_S), MAX_HALF_S))
        centre = int(f * hop * rate + 0.5)
        if centre - half < 0 or centre + half >= n:
            out[f] = f0
            continue
        if centre + half >= high:
            low, high = centre - most_half, centre + TURNS_AHEAD
            re, im = _half_turns(path, turns, hop, rate, low, high)
        if not known[half]:
            _bell(half, rate, windows[half], ratios[half])
            known[half] = True
        ratio = ratios[half]
        begin = centre - half
        c_re, c_im = re[centre - low], im[centre - low]
        for i in range(2 * half + 1):
            step_re[i] = re[begin - low + i] * c_re + im[begin - low + i] * c_im
            step_im[i] = im[begin - low + i] * c_re - re[begin - low + i] * c_im
            z_re[i] = windows[half, i] * x[begin + i]
            z_im[i] = 0.0
        count = max(1, min(most, int(HIGHEST_HZ / f0)))
        below = 0.0
        power = 0.0
        for h in range(1, 2 * count + 2):
            _turn(z_re, z_im, step_re, step_im, ratio, 2 * half + 1, sums)
            here = sums[0] * sums[0] + sums[1] * sums[1]
            k = h // 2
            if h % 2 == 0:
                power = here
                deltas[k] = -(sums[3] * sums[0] - sums[2] * sums[1]) / max(here, 1e-30) / (2.0 * math.pi) / k
                continue
            if k > 0:
                snr = power / (0.5 * (below + here) + 1e-12)
                trusted = abs(deltas[k]) * k < 0.4 * f0
                squared = snr * snr
                weights[k] = k * k * squared / (1.0 + squared / (SNR_KNEE * SNR_KNEE)) if trusted else 0.0
            below = here
        out[f] = f0 + _weighted_mean(deltas, weights, count, f0)
