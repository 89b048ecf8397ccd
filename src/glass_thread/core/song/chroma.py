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
HARMONY_HOP_S, BLOCK_FRAMES = SIZE // 2 / RATE, 100
MEDIAN_BINS = 41
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


def harmony(recording: Recording, *, reference_hz: float = DEFAULT_REFERENCE_HZ) -> Floats:
    """Share of each pitch class over time, shape (n, 12), one row each `HARMONY_HOP_S`; zeros in silence."""
    rate = recording.sample_rate
    block = int(BLOCK_FRAMES * HARMONY_HOP_S * rate)
    beyond = int(SIZE / RATE * rate)
    parts: list[Floats] = [np.zeros((0, 12))]
    for begin in range(0, recording.frames, block):
        piece = recording.read(begin, min(begin + block + beyond, recording.frames)).mean(axis=0)
        parts.append(_classes(resample(piece, rate, RATE), reference_hz)[:BLOCK_FRAMES])
    rows = scipy.ndimage.uniform_filter1d(np.concatenate(parts), 3, axis=0)
    total = rows.sum(axis=1, keepdims=True)
    return np.divide(rows, total, out=np.zeros_like(rows), where=total > 0)


def _folded(audio: Floats, reference_hz: float) -> Floats:
    return _classes(audio, reference_hz).sum(axis=0)


def _classes(audio: Floats, reference_hz: float) -> Floats:
    """How much of each pitch class each frame holds, shape (frames, 12)."""
    if len(audio) < SIZE:
        audio = np.pad(audio, (0, SIZE - len(audio)))
    frames = np.lib.stride_tricks.sliding_window_view(audio, SIZE)[:: SIZE // 2]
    magnitude = np.abs(scipy.fft.rfft(frames * np.hanning(SIZE), axis=1))
    freq = np.fft.rfftfreq(SIZE, 1.0 / RATE)
    near = slice(0, np.searchsorted(freq, HIGH_HZ) + MEDIAN_BINS)  # what lies above has no say
    magnitude, freq = magnitude[:, near], freq[near]
    inner = magnitude[:, 1:-1]
    around = _median_around(inner)
    peak = (inner > magnitude[:, :-2]) & (inner >= magnitude[:, 2:]) & (inner > STANDS_OUT * around + 1e-6)
    peak &= (freq[1:-1] > LOW_HZ) & (freq[1:-1] < HIGH_HZ)
    rows, columns = np.nonzero(peak)
    left, middle, right = (np.log(magnitude[rows, columns + i] + 1e-12) for i in range(3))
    shift = 0.5 * (left - right) / np.minimum(left - 2 * middle + right, -1e-9)
    midi = hz_to_midi((columns + 1 + shift) * RATE / SIZE) - 12 * np.log2(reference_hz / DEFAULT_REFERENCE_HZ)
    classes = np.round(midi).astype(int) % 12
    found = np.zeros((len(frames), 12))
    np.add.at(found, (rows, classes), np.sqrt(inner[rows, columns]))
    return found


def _median_around(rows: Floats) -> Floats:
    """Median over `MEDIAN_BINS` along each row, shape (n, k); of one long row, as SciPy does that far faster."""
    half = MEDIAN_BINS // 2
    apart = np.pad(rows, ((0, 0), (half, half)), mode="symmetric")
    return np.asarray(scipy.ndimage.median_filter(apart.ravel(), MEDIAN_BINS).reshape(apart.shape)[:, half:-half])
