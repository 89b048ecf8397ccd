"""Mains hum: finding it where nobody sings, and taking it out of what the pitch is read from.

The mains have 50 or 60 Hz (IEC 60038) and hum at their multiples. A voice does not hold a multiple of the mains at one
level through all its rests.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from ..signal.levels import mean_level
from ..signal.signal_tools import resample
from ..signal.types import Floats, Samples
from ..signal.units import gain_to_db

MAINS_HZ = (50.0, 60.0)
HARMONICS = 30
WINDOW_S, MOST_WINDOWS, QUIET_SHARE, FEWEST_QUIET = 0.25, 1200, 0.2, 4
RATE = 4_000
STANDS_OUT_DB, STEADY_DB = 10.0, 4.0
LOBE_HZ = 2.0 / WINDOW_S + 2.0  # half the width of a steady tone in the spectrum
FEWEST_HARMONICS = 2
NOTCH_HZ, NOTCH_GROWTH = 2.0, 0.01  # width, and by how much of its frequency a notch is wider


@dataclass(frozen=True)
class Hum:
    """Harmonics of the mains in Hz that sound all the time, and the level in dBFS where nothing else does."""

    hz: tuple[float, ...] = ()
    level_db: float = -200.0


def find_hum(audio: Samples, sample_rate: int) -> Hum:
    """The hum that sounds through the quietest parts of shape (n,) audio; no frequencies when there is none."""
    spectra, freq, levels = _quiet_spectra(audio, sample_rate)
    if len(spectra) < FEWEST_QUIET:
        return Hum()
    found = [_standing_out(spectra, freq, mains) for mains in MAINS_HZ]
    best = max(found, key=len)
    return Hum(best, mean_level(levels)) if len(best) >= FEWEST_HARMONICS else Hum()


def _quiet_spectra(audio: Samples, sample_rate: int) -> tuple[Floats, Floats, Floats]:
    """Power in dB of the quietest windows that are not digital silence, shape (k, bins), the bins in Hz, and the
    windows' levels in dBFS."""
    size = int(WINDOW_S * sample_rate)
    starts = np.arange(0, len(audio) - size, size)
    starts = starts[:: max(1, len(starts) // MOST_WINDOWS)]
    pieces = [np.asarray(audio[int(s) : int(s) + size], dtype=np.float64) for s in starts]
    level = np.array([np.sqrt(np.mean(piece**2)) for piece in pieces])
    some = np.flatnonzero(level > 1e-6)
    quiet = some[np.argsort(level[some])][: max(FEWEST_QUIET, int(QUIET_SHARE * len(some)))]
    rows = [resample(pieces[i], sample_rate, RATE) for i in quiet]
    length = min((len(row) for row in rows), default=0)
    if length < 16:
        return np.zeros((0, 0)), np.zeros(0), np.zeros(0)
    padded = 4 * length
    block = np.stack([row[:length] for row in rows]) * np.hanning(length)
    power = np.abs(scipy.fft.rfft(block, padded, axis=1)) ** 2
    return 10.0 * np.log10(power + 1e-16), np.fft.rfftfreq(padded, 1.0 / RATE), gain_to_db(level[quiet])


def _standing_out(spectra: Floats, freq: Floats, mains: float) -> tuple[float, ...]:
    """Harmonics of one mains frequency that stand out of their surroundings, at about one level in all windows."""
    found = []
    for k in range(1, HARMONICS + 1):
        hz = k * mains
        peak = spectra[:, np.abs(freq - hz) < 2.0].max(axis=1)
        between = (np.abs(freq - hz) > 0.35 * mains) & (np.abs(freq - hz) < 0.65 * mains)
        over = peak - np.median(spectra[:, between], axis=1)
        around = (np.abs(freq - hz) > LOBE_HZ) & (np.abs(freq - hz) < 1.6 * LOBE_HZ)
        alone = peak - spectra[:, around].max(axis=1)  # no skirt of something beside it
        if min(np.percentile(over, 25), np.percentile(alone, 25)) > STANDS_OUT_DB and np.std(peak) < STEADY_DB:
            found.append(hz)
    return tuple(found)


def notches(hum_hz: tuple[float, ...], sample_rate: int) -> Floats:
    """Second-order sections that take these frequencies out, shape (len(hum_hz), 6)."""
    rows = []
    for hz in hum_hz:
        b, a = scipy.signal.iirnotch(hz, hz / (NOTCH_HZ + NOTCH_GROWTH * hz), fs=sample_rate)
        rows.append(np.concatenate((b, a)))
    return np.array(rows).reshape(-1, 6)
