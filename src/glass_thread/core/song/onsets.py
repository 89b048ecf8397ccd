"""How strongly something begins at each moment of a recording.

Half-wave rectified change of log energy in bands (J. P. Bello et al., "A tutorial on onset detection in music signals",
IEEE Transactions on Speech and Audio Processing 13(5), 2005).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import scipy

from ..signal.recording import Recording
from ..signal.signal_tools import resample
from ..signal.types import Floats, Note

ONSET_HOP_S = 0.01
RATE, HOP, SIZE = 24_000, 240, 1024
BLOCK_S = 20.0
LONGEST_S = 600.0  # a tempo shows long before that
LOW_HZ = 180.0  # drums and basses that carry the bar
BANDS = 24
COMPRESSION = 1000.0
LAG = 2  # frames between which energy is compared
LEAD = 0.72  # of a frame: where in it an attack lies when the change is greatest, measured on clicks


class Onsets(NamedTuple):
    """Strength of beginnings, shape (n,), one value each 10 ms from `start_s`, of all bands and of the low ones."""

    strength: Floats
    low: Floats
    start_s: float


def onsets_of(recording: Recording) -> Onsets:
    """Onset strength of the first ten minutes of a recording."""
    rate = recording.sample_rate
    frames = min(recording.frames, int(LONGEST_S * rate))
    block = int(BLOCK_S * rate)
    energy: list[Floats] = [np.zeros((0, BANDS))]
    for begin in range(0, frames, block):  # each block reaches one frame beyond itself
        end = min(begin + block + int(rate * SIZE / RATE), frames)
        energy.append(_band_energy(resample(recording.read(begin, end).mean(axis=0), rate, RATE)))
    log = np.log1p(COMPRESSION * np.concatenate(energy))
    change = np.maximum(log[LAG:] - log[:-LAG], 0.0) if len(log) > LAG else np.zeros((0, BANDS))
    low = int(np.searchsorted(_edges(), LOW_HZ)) or 1
    return Onsets(change.mean(axis=1), change[:, :low].mean(axis=1), (LAG * HOP + LEAD * SIZE) / RATE)


def _edges() -> Floats:
    return np.geomspace(60.0, 11_000.0, BANDS + 1)[1:]


def _band_energy(audio: Floats) -> Floats:
    """Energy of each frame in each band, shape (frames of one block, BANDS)."""
    count = min(int(BLOCK_S * RATE) // HOP, max(0, len(audio) // HOP))
    audio = np.pad(audio, (0, max(0, max(count - 1, 0) * HOP + SIZE - len(audio))))
    frames = np.lib.stride_tricks.sliding_window_view(audio, SIZE)[: count * HOP : HOP]
    power = np.abs(scipy.fft.rfft(frames * np.hanning(SIZE), axis=1)) ** 2 / SIZE
    band = np.minimum(np.searchsorted(_edges(), np.fft.rfftfreq(SIZE, 1.0 / RATE)), BANDS - 1)
    return np.add.reduceat(power, np.searchsorted(band, np.arange(BANDS)), axis=1)


def onsets_of_notes(notes: Sequence[Note], duration_s: float) -> Onsets:
    """The same from the starts of sung notes, the longer and louder ones stronger."""
    strength = np.zeros(int(duration_s / ONSET_HOP_S) + 1)
    loudest = max((note.level_db for note in notes), default=0.0)
    for note in notes:
        weight = min(note.end_s - note.start_s, 0.6) * 10 ** ((note.level_db - loudest) / 40)
        strength[min(int(note.start_s / ONSET_HOP_S), len(strength) - 1)] += weight
    smooth = np.convolve(strength, np.hanning(9), mode="same")  # singers are not clicks
    return Onsets(smooth, smooth, 0.0)
