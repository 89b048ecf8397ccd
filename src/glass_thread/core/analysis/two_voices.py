"""Whether two sing at once: what is left of the sound when the voice that is read has been taken out of it.

A voice is taken out by taking the sound one of its periods earlier from the sound (A. de Cheveigné, "Separation of
concurrent harmonic sounds: fundamental frequency estimation and a time-domain cancellation model of auditory
processing", J. Acoust. Soc. Am. 93, 1993).  Of one voice little is left, and that is noise; of two the other one is,
and repeats too.
"""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from ..signal.signal_tools import resample
from ..signal.types import HOP_S, Contour, Floats, Samples
from ..signal.units import midi_to_hz

RATE, BAND_HZ = 8_000, (80.0, 1_500.0)
LOUD_DB = 15.0  # under the loudest tenth, at most
STEADY_FRAMES, STEADY_SEMITONES = 15, 0.5  # on both sides, as a pitch that moves is not taken out
MOST_FRAMES, FEWEST_FRAMES = 120, 20
AROUND_S = 0.04  # on both sides of a frame
LEFT_SHARE, REPEATS = 0.15, 0.75  # power that is left, and how alike its periods are
PERIODS_S = (0.00125, 0.019)
NOT_ITS_OWN = 0.05  # of a period, from a multiple of the period that was taken out: a growl repeats at two of them
TWO_SHARE = 0.08  # of the frames looked at; single voices have 0.02, in rooms and under breath 0.07 at most


def sounds_like_two(audio: Samples, sample_rate: int, contour: Contour, level: Floats) -> bool:
    """Whether a second voice, about as loud, sounds under a good part of shape (n,) audio; `level` in dBFS."""
    frames = _steady_frames(contour, level)
    if len(frames) < FEWEST_FRAMES:
        return False
    frames = frames[:: -(-len(frames) // MOST_FRAMES)]
    band = scipy.signal.butter(2, BAND_HZ, "band", fs=RATE, output="sos")
    two = [_is_two(_piece(audio, sample_rate, frame, band), float(midi_to_hz(contour.midi[frame]))) for frame in frames]
    return float(np.mean(two)) > TWO_SHARE


def _steady_frames(contour: Contour, level: Floats) -> NDArray[np.intp]:
    """Loud frames around which the pitch is held."""
    voiced = contour.voiced
    if not voiced.any():
        return np.zeros(0, dtype=np.intp)
    width = 2 * STEADY_FRAMES + 1
    filled = np.where(voiced, contour.midi, 1e3)
    span = scipy.ndimage.maximum_filter1d(filled, width) - scipy.ndimage.minimum_filter1d(filled, width)
    loud = level > np.percentile(level[voiced], 90) - LOUD_DB
    return np.flatnonzero(voiced & loud & (span < STEADY_SEMITONES))


def _piece(audio: Samples, sample_rate: int, frame: int, band: Floats) -> Floats:
    """The sound around a frame, and one longest period more before it, at `RATE`."""
    middle, half = frame * HOP_S, AROUND_S + 2 * PERIODS_S[1]
    begin, end = max(0, round((middle - half) * sample_rate)), min(len(audio), round((middle + half) * sample_rate))
    return scipy.signal.sosfilt(band, resample(np.asarray(audio[begin:end], dtype=np.float64), sample_rate, RATE))


def _is_two(piece: Floats, hz: float) -> bool:
    """Whether much is left of a piece without the voice of `hz`, and repeats at another period."""
    place = np.arange(round(PERIODS_S[1] * RATE) + 1, len(piece))
    left = piece[place] - np.interp(place - RATE / hz, np.arange(len(piece)), piece)
    power = float(np.mean(piece[place] ** 2))
    if power < 1e-14 or 0.5 * float(np.mean(left**2)) < LEFT_SHARE * power:
        return False
    n = len(left)
    lags = np.arange(round(PERIODS_S[0] * RATE), round(PERIODS_S[1] * RATE) + 1)
    product = scipy.signal.fftconvolve(left, left[::-1])[n - 1 + lags]
    energy = np.concatenate(([0.0], np.cumsum(left**2)))
    alike = product / np.sqrt(energy[n - lags] * (energy[n] - energy[lags]) + 1e-20)
    periods = lags[int(np.argmax(alike))] * hz / RATE
    return float(alike.max()) > REPEATS and abs(periods - round(periods)) > NOT_ITS_OWN
