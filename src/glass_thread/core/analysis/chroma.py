"""How much of each pitch class a recording of many instruments holds.

Spectral peaks folded into one octave (T. Fujishima, "Realtime chord recognition of musical sound", ICMC 1999).
"""

from __future__ import annotations

import numpy as np
import scipy

from ..signal.recording import Recording
from ..signal.signal_tools import resample
from ..signal.types import Floats
from ..signal.units import DEFAULT_REFERENCE_HZ, hz_to_midi

RATE, SIZE = 11_025, 4096
LOW_HZ, HIGH_HZ = 60.0, 2_000.0
PIECE_S, MOST_PIECES = 4.0, 40
STANDS_OUT = 4.0  # over the median magnitude around


def chroma(recording: Recording, *, reference_hz: float = DEFAULT_REFERENCE_HZ) -> Floats:
    """Share of each pitch class from C on, shape (12,), from pieces spread over the recording; zeros in silence."""
    rate = recording.sample_rate
    length = int(PIECE_S * rate)
    count = max(1, min(MOST_PIECES, recording.frames // length))
    total = np.zeros(12)
    for begin in np.linspace(0, max(0, recording.frames - length), count).astype(int):
        piece = recording.read(int(begin), min(int(begin) + length, recording.frames)).mean(axis=0)
        total += _folded(resample(piece, rate, RATE), reference_hz)
    return total / total.sum() if total.sum() > 0 else total


def _folded(audio: Floats, reference_hz: float) -> Floats:
    if len(audio) < SIZE:
        audio = np.pad(audio, (0, SIZE - len(audio)))
    frames = np.lib.stride_tricks.sliding_window_view(audio, SIZE)[:: SIZE // 2]
    magnitude = np.abs(scipy.fft.rfft(frames * np.hanning(SIZE), axis=1))
    freq = np.fft.rfftfreq(SIZE, 1.0 / RATE)
    inner = magnitude[:, 1:-1]
    around = scipy.ndimage.median_filter(inner, size=(1, 41))
    peak = (inner > magnitude[:, :-2]) & (inner >= magnitude[:, 2:]) & (inner > STANDS_OUT * around + 1e-6)
    peak &= (freq[1:-1] > LOW_HZ) & (freq[1:-1] < HIGH_HZ)
    rows, columns = np.nonzero(peak)
    left, middle, right = (np.log(magnitude[rows, columns + i] + 1e-12) for i in range(3))
    shift = 0.5 * (left - right) / np.minimum(left - 2 * middle + right, -1e-9)
    midi = hz_to_midi((columns + 1 + shift) * RATE / SIZE) - 12 * np.log2(reference_hz / DEFAULT_REFERENCE_HZ)
    classes = np.round(midi).astype(int) % 12
    return np.bincount(classes, weights=np.sqrt(inner[rows, columns]), minlength=12).astype(np.float64)
