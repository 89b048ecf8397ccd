"""What is sung apart from its pitch: the shape of the spectrum over time, for telling whether two places are alike.

Mel-frequency cepstra (Davis and Mermelstein 1980) of low order, from which the pitch is smoothed away, less what is
usual in the recording (cepstral mean normalisation: Atal 1974; both from memory), with loudness, voicing and hiss.
"""

from __future__ import annotations

import numpy as np
import scipy

from ..analysis.air import short_spectra
from ..signal.types import Contour, Floats, Samples
from ..signal.units import midi_to_hz

BANDS, COEFFICIENTS = 32, 13
_LOW_HZ, _HIGH_HZ = 120.0, 8000.0
_FLOOR_DB = 55.0  # under the usual level of the voice; what is quieter is silence
_FAST_RISE, _FAST_PITCH = 0.08, 0.12  # of loudness (20 dB) and of pitch (semitones) a frame
_FAINT_DB = 40.0  # under the usual level, from where on the shape counts less and less
_LIFTER = 22.0
_UNVOICED_HZ = 200.0  # over which the spectrum of what has no pitch is averaged
_VOICE_WEIGHT, _LOUD_WEIGHT = 0.5, 0.5


def timbre(audio: Samples, sample_rate: int, contour: Contour, level_db: Floats) -> Floats:
    """Features of every analysis frame, shape (n_frames, 15): cepstral shape, loudness and voicing, about ±1 each."""
    n = len(contour.midi)
    mel = np.zeros((n, BANDS))
    weights: Floats | None = None
    widths_hz = np.where(contour.voiced, midi_to_hz(np.nan_to_num(contour.midi, nan=60.0)), _UNVOICED_HZ)
    for frames, spectrum, freq in short_spectra(audio, sample_rate, n):
        weights = _bands(freq) if weights is None else weights
        mel[frames] = _between_harmonics(spectrum, freq, widths_hz[frames]) @ weights
    sung = contour.voiced & np.isfinite(level_db)
    usual_db = float(np.median(level_db[sung])) if sung.any() else -30.0
    floor = 10.0 ** ((usual_db - _FLOOR_DB) / 10.0)
    shape = scipy.fft.dct(np.log(mel + floor), axis=1, norm="ortho")[:, 1 : COEFFICIENTS + 1]
    order = np.arange(1, COEFFICIENTS + 1)
    shape *= 1.0 + _LIFTER / 2.0 * np.sin(np.pi * order / _LIFTER)
    heard = level_db > usual_db - 30.0
    if heard.any():
        spread = np.maximum(shape[heard].std(axis=0), 1e-6)
        shape = (shape - shape[heard].mean(axis=0)) / spread
    shape *= np.clip((level_db - usual_db + _FAINT_DB) / (_FAINT_DB / 2.0), 0.0, 1.0)[:, None]
    loud = np.clip((level_db - usual_db) / 20.0, -2.0, 1.0)[:, None]
    voiced = np.where(contour.voiced, 1.0, -1.0)[:, None]
    return np.hstack([shape / np.sqrt(COEFFICIENTS), _LOUD_WEIGHT * loud, _VOICE_WEIGHT * voiced])


def _between_harmonics(spectrum: Floats, freq: Floats, widths_hz: Floats) -> Floats:
    """Power spectra, shape (m, k), averaged over a width of frequency each: as wide as the harmonics lie apart, what is
    left does not tell where they are."""
    total = np.concatenate([np.zeros((len(spectrum), 1)), np.cumsum(spectrum, axis=1, dtype=np.float64)], axis=1)
    half = 0.5 * widths_hz[:, None] / (freq[1] - freq[0])
    at = np.arange(len(freq))[None] + 0.5
    high, low = np.minimum(at + half, len(freq)), np.maximum(at - half, 0.0)
    return (_read(total, high) - _read(total, low)) / (high - low)


def _read(rows: Floats, at: Floats) -> Floats:
    """Values of each row at fractional places of it."""
    below = np.minimum(at.astype(np.int64), rows.shape[1] - 2)
    share = at - below
    return np.take_along_axis(rows, below, 1) * (1.0 - share) + np.take_along_axis(rows, below + 1, 1) * share


def _bands(freq: Floats) -> Floats:
    """Triangular mel bands over spectral bins, shape (bins, bands)."""
    mels = 1127.0 * np.log1p(np.array([_LOW_HZ, min(_HIGH_HZ, freq[-1])]) / 700.0)
    edges = 700.0 * np.expm1(np.linspace(mels[0], mels[1], BANDS + 2) / 1127.0)
    step = freq[1] - freq[0]
    rising = (freq[:, None] - edges[None, :-2]) / np.maximum(edges[1:-1] - edges[:-2], step)[None]
    falling = (edges[None, 2:] - freq[:, None]) / np.maximum(edges[2:] - edges[1:-1], step)[None]
    return np.clip(np.minimum(rising, falling), 0.0, 1.0) + 1e-9


def performance(timbre: Floats, contour: Contour, level_db: Floats, high_db: Floats) -> Floats:
    """Features for aligning two performances, shape (n_frames, 18): the timbre, how fast it gets louder, hiss, how
    fast the pitch moves (not where it is, so that harmonies follow too), loudness and voicing."""
    voiced = contour.voiced
    n = len(voiced)
    if not voiced.any():
        return np.hstack([np.zeros((n, 16)), np.full((n, 2), -1.0)])
    usual_db = float(np.median(level_db[voiced]))
    loud = np.clip((level_db - usual_db) / 20.0, -2.0, 1.0)
    rising = np.clip(np.gradient(scipy.ndimage.gaussian_filter1d(loud, 2.0)) / _FAST_RISE, -1.0, 1.0)
    hiss = np.clip((high_db - usual_db + 35.0) / 25.0, 0.0, 1.0) * ~voiced
    frames = np.arange(n)
    pitch = np.interp(frames, frames[voiced], contour.midi[voiced])
    moving = np.clip(np.abs(np.gradient(scipy.ndimage.gaussian_filter1d(pitch, 4.0))) / _FAST_PITCH, 0.0, 1.0) * voiced
    sung = np.where(voiced, 1.0, -1.0)
    return np.column_stack([0.4 * timbre[:, :COEFFICIENTS], 0.8 * rising, hiss, 0.8 * moving, 0.8 * loud, sung])
