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
PERIODS_EACH_SIDE, MIN_HALF_S, MAX_HALF_S = 2.0, 0.012, 0.034


@numba.njit(cache=True)
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


@numba.njit(cache=True, fastmath=True)
def _window(x, rate, centre, half, turns, step_re, step_im, z_re, z_im, ratio):  # pragma: no cover - compiled
    """Windowed samples and the half-harmonic rotation along the path."""
    for i in range(2 * half + 1):
        phase = math.pi * (turns[centre - half + i] - turns[centre])
        angle = math.pi * (i - half) / (half + 1)
        window = 0.5 + 0.5 * math.cos(angle)
        ratio[i] = -0.5 * math.pi / (half + 1) * math.sin(angle) * rate / max(window, 1e-12)
        step_re[i] = math.cos(phase)
        step_im[i] = -math.sin(phase)
        z_re[i] = window * x[centre - half + i]
        z_im[i] = 0.0


@numba.njit(cache=True, fastmath=True)
def refine_by_harmonics(x, rate, times, hz, turns, most, out):  # pragma: no cover - compiled
    """Write the refined frequency of every frame with ``hz > 0`` into `out`.

    Parameters
    ----------
    x : ndarray of float64, shape (n,)
        Samples at `rate` Hz.
    times, hz : ndarray of float64, shape (n_frames,)
        Frame times in seconds, first estimates in Hz (0 = skip).
    turns : ndarray of float64, shape (n,)
        Cycles counted along the estimated path at every sample of `x`.
    most : int
        Harmonics used, up to `HARMONICS`.
    out : ndarray of float64, shape (n_frames,)
        Receives the frequency in Hz.
    """
    n = len(x)
    largest = 2 * int(rate * MAX_HALF_S) + 3
    step_re, step_im = np.empty(largest), np.empty(largest)
    z_re, z_im, ratio = np.empty(largest), np.empty(largest), np.empty(largest)
    deltas, weights = np.zeros(HARMONICS + 2), np.zeros(HARMONICS + 2)
    for f in range(len(times)):
        f0 = hz[f]
        if not f0 > 0.0:
            continue
        half = int(rate * min(max(PERIODS_EACH_SIDE / f0, MIN_HALF_S), MAX_HALF_S))
        centre = int(times[f] * rate + 0.5)
        if centre - half < 0 or centre + half >= n:
            out[f] = f0
            continue
        _window(x, rate, centre, half, turns, step_re, step_im, z_re, z_im, ratio)
        count = max(1, min(most, int(HIGHEST_HZ / f0)))
        below = 0.0
        power = 0.0
        for h in range(1, 2 * count + 2):
            a_re, a_im, b_re, b_im = 0.0, 0.0, 0.0, 0.0
            for i in range(2 * half + 1):
                re = z_re[i] * step_re[i] - z_im[i] * step_im[i]
                im = z_re[i] * step_im[i] + z_im[i] * step_re[i]
                z_re[i] = re
                z_im[i] = im
                a_re += re
                a_im += im
                b_re += re * ratio[i]
                b_im += im * ratio[i]
            here = a_re * a_re + a_im * a_im
            k = h // 2
            if h % 2 == 0:
                power = here
                deltas[k] = -(b_im * a_re - b_re * a_im) / max(here, 1e-30) / (2.0 * math.pi) / k
                continue
            if k > 0:
                snr = power / (0.5 * (below + here) + 1e-12)
                trusted = abs(deltas[k]) * k < 0.4 * f0
                squared = snr * snr
                weights[k] = k * k * squared / (1.0 + squared / (SNR_KNEE * SNR_KNEE)) if trusted else 0.0
            below = here
        out[f] = f0 + _weighted_mean(deltas, weights, count, f0)
