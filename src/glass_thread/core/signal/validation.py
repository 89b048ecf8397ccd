"""The one check every public function that takes audio calls first."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from .errors import AudioError, ParameterError
from .types import Floats

MIN_RATE, MAX_RATE = 8_000, 192_000
LOUDEST = 1e4  # 80 dB above full scale: beyond it a float file holds no sound, and squares overflow


def valid_audio(audio: ArrayLike, sample_rate: int) -> Floats:
    """Return `audio` as shape (channels, n), float64 unless it is float32, or say what is wrong.

    Parameters
    ----------
    audio : array_like, shape (n,) or (channels, n)
        Samples, full scale ±1.
    sample_rate : int
        Hertz, 8 000 to 192 000.

    Raises
    ------
    AudioError
        If there is no sample, a sample is NaN or infinite, or the rate is out of range.
    """
    if not MIN_RATE <= sample_rate <= MAX_RATE:
        raise AudioError(f"The sample rate is {sample_rate} Hz; rates from 8 to 192 kHz can be worked on.")
    samples = np.asarray(audio)
    if samples.dtype != np.float32:
        samples = samples.astype(np.float64)
    if samples.ndim == 1:
        samples = samples[np.newaxis]
    if samples.ndim != 2:
        raise AudioError("Audio must be one row of samples per channel.")
    if samples.shape[1] == 0:
        raise AudioError("The file has no samples in it.")
    refuse_no_sound(samples)
    return samples


def refuse_no_sound(samples: Floats) -> None:
    """Raise AudioError when a sample is NaN, infinite or too far beyond full scale to be sound."""
    peak = float(max(samples.max(initial=0.0), -samples.min(initial=0.0)))
    if not np.isfinite(peak):  # NaN passes through both
        raise AudioError("The file has samples that are not numbers (NaN or infinite); export it again.")
    if peak > LOUDEST:
        over = f"{20 * np.log10(peak):.0f} dB beyond full scale"
        raise AudioError(f"The file has samples {over}, which no recording has; export it again.")


def in_range(value: float, low: float, high: float, what: str) -> float:
    """Return `value` as float if it is finite and within [low, high], else raise ParameterError."""
    number = float(value)
    if not np.isfinite(number) or not low <= number <= high:
        raise ParameterError(f"{what} must be between {low:g} and {high:g}; got {number:.6g}.".replace("-", "−"))
    return number
