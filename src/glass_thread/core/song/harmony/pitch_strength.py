"""How strongly each note sounds at each moment of a recording of many instruments.

A spectrum on a scale of thirds of semitones, its tuning, and the notes whose harmonics explain it with none below zero
(M. Mauch and S. Dixon, "Approximate note transcription for the improved identification of difficult chords", ISMIR
2010).
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import scipy

from ...signal.recording import Recording
from ...signal.signal_tools import resample
from ...signal.types import Floats

RATE, SIZE, HOP = 11_025, 4096, 1024
HOP_S = HOP / RATE
FIRST, LAST = 28, 100  # MIDI notes, from a bass guitar's lowest string on
PARTS = 3  # of a semitone
_BLOCK_FRAMES = 200
_FADES = 0.6  # each harmonic against the one below it
_HARMONICS = 16
_AROUND = PARTS * 18 + 1  # bins over which the background is taken
_STEADY = 5  # frames of which the middle one counts: drums are gone by then, notes are not
_FEWEST = 1e-9


class NoteStrength(NamedTuple):
    """How strong each of the notes `FIRST` to `LAST` is, shape (frames, notes), one row each `HOP_S` with the middle of
    its frame at `HOP_S` times its number; and by how many cents the music lies over A4 = 440 Hz."""

    notes: Floats
    off_cents: float


def note_strength(recording: Recording) -> NoteStrength:
    """The strength of notes over the whole of a recording."""
    spectra = scipy.ndimage.median_filter(_log_spectra(recording), (_STEADY, 1))
    off = _tuning(spectra)
    bins = np.arange(spectra.shape[1], dtype=float)
    moved = np.stack([np.interp(bins + off * PARTS, bins, row) for row in spectra]) if len(spectra) else spectra
    return NoteStrength(_explained(_whitened(moved)), 100.0 * off)


def _log_spectra(recording: Recording) -> Floats:
    """Magnitudes at thirds of semitones, shape (frames, bins); the frames lie around multiples of `HOP_S`."""
    rate = recording.sample_rate
    kernel, beyond = _kernel(), int(SIZE / RATE * rate)
    count = int(recording.frames / rate * RATE) // HOP + 1
    parts = [np.zeros((0, kernel.shape[0]))]
    for first in range(0, count, _BLOCK_FRAMES):
        frames = min(_BLOCK_FRAMES, count - first)
        begin = round(first * HOP_S * rate) - beyond // 2
        end = round((first + frames) * HOP_S * rate) + beyond
        piece = recording.read(max(0, begin), min(end, recording.frames)).mean(axis=0)
        audio = resample(piece, rate, RATE)
        audio = np.pad(audio, (round(max(0, -begin) / rate * RATE), SIZE + frames * HOP))
        windows = np.lib.stride_tricks.sliding_window_view(audio, SIZE)[: frames * HOP : HOP]
        magnitude = np.abs(scipy.fft.rfft(windows * np.hanning(SIZE), axis=1))
        parts.append(np.asarray((kernel @ magnitude.T).T))
    return np.concatenate(parts)


def _kernel() -> scipy.sparse.csr_array:
    """Takes bins of the spectrum to thirds of semitones: a raised cosine on the log scale about each."""
    freq = np.fft.rfftfreq(SIZE, 1.0 / RATE)
    midi = 69.0 + 12.0 * np.log2(np.maximum(freq, 1.0) / 440.0)
    places = FIRST - 1 + np.arange((LAST - FIRST + 2) * PARTS + 24 * PARTS) / PARTS
    places = places[places < midi[-1] - 1.0]
    width = np.maximum(1.0 / PARTS, 12.0 * np.log2(1.0 + RATE / SIZE / (440.0 * 2 ** ((places - 69.0) / 12.0))))
    near = np.clip(1.0 - np.abs(midi[None, :] - places[:, None]) / width[:, None], 0.0, None)
    return scipy.sparse.csr_array(near / np.maximum(near.sum(axis=1, keepdims=True), _FEWEST))


def _tuning(spectra: Floats) -> float:
    """Semitones by which the music lies over 440 Hz, −0.5 to 0.5: the angle of the strength within semitones."""
    if not len(spectra):
        return 0.0
    strength = _whitened(spectra).sum(axis=0)
    places = np.arange(len(strength)) / PARTS
    return float(np.angle(np.sum(strength * np.exp(2j * np.pi * places))) / (2.0 * np.pi))


def _whitened(spectra: Floats) -> Floats:
    """What stands out of its surroundings, by how much it varies there."""
    mean = scipy.ndimage.uniform_filter1d(spectra, _AROUND, axis=1)
    square = scipy.ndimage.uniform_filter1d(spectra**2, _AROUND, axis=1)
    spread = np.sqrt(np.maximum(square - mean**2, 0.0))
    floor = 0.02 * spread.max(axis=1, keepdims=True) + _FEWEST
    return np.maximum(spectra - mean, 0.0) / np.maximum(spread, floor) ** 0.9


def _explained(spectra: Floats) -> Floats:
    """The notes whose harmonics together are nearest to each frame, none of them below zero."""
    profiles = _profiles(spectra.shape[1])
    found = np.zeros((len(spectra), profiles.shape[1]))
    for number, row in enumerate(spectra):
        heard = np.flatnonzero(profiles.T @ row > _FEWEST)
        if len(heard) and row.max() > 0:
            found[number, heard] = scipy.optimize.nnls(profiles[:, heard], row, maxiter=30 * len(heard))[0]
    return found


def _profiles(bins: int) -> Floats:
    """The spectrum of each note, shape (bins, notes)."""
    notes = np.arange(FIRST, LAST + 1)
    found = np.zeros((bins, len(notes)))
    for harmonic in range(1, _HARMONICS + 1):
        places = (notes - (FIRST - 1) + 12.0 * np.log2(harmonic)) * PARTS
        distance = np.abs(np.arange(bins)[:, None] - places[None, :])
        found += _FADES ** (harmonic - 1) * np.clip(1.0 - distance / PARTS * 1.5, 0.0, None)
    return found / np.maximum(np.linalg.norm(found, axis=0), _FEWEST)
