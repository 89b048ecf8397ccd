"""Strain: how audible the processing of a note may be; and Kept: how much of its own movement is left."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..signal.order import quantile_of
from ..signal.types import HOP_S, Analysis, Floats, Note
from .gestures import note_frames


@dataclass(frozen=True)
class Asked:
    """What is asked of one note, in the terms that tell how audible it may be.

    Attributes
    ----------
    shift : float
        Mean change of pitch in semitones, signed.
    bend : float
        Root-mean-square change of pitch around that mean, in semitones.
    steepness : float
        Fastest change of the correction in semitones per second (95th percentile).
    formant : float
        Mean shift of the vocal tract in semitones, signed.
    stretch : float
        Octaves of duration, signed: 1 is twice as long.
    pitch : float
        MIDI note number it was sung at.
    breath_db : float
        Level above 5 kHz relative to the whole, in dB: breathy and noisy notes have more.
    """

    shift: float
    bend: float
    steepness: float
    formant: float
    stretch: float
    pitch: float
    breath_db: float


# Damage in dB of mel-cepstral distance, by least squares over 517 notes of the benchmark's voices (two seeds), in which
# the loudness of a note had no part; for stretching, what goes beyond the distance between two takes of the singer.
_UP, _DOWN = 0.60, 0.67  # per root semitone
_WIDER, _SMALLER = 2.03, 1.15  # tract shifted up, down, per semitone
_BREATH, _HEIGHT = 0.35, 0.96  # per 10 dB over −30, per octave over G3, for anything that is rendered
_HIGH_SHIFT, _STEEP = 0.20, 0.007
_STRETCH, _HIGH_STRETCH = 0.3, 0.25  # per octave of duration, and more for each octave over G3
_RENDERED = 0.3  # semitones from which a change counts in full as rendered
_HALF_DB = 2.1  # damage that reads as 50; two takes of one singer differ by 0.8 dB, which reads as 5
LITTLE_BREATH_DB = -30.0  # at and below which breath has no part in the damage
LOW_MOVEMENT = 0.02  # semitones rms below which a note has no movement of its own to lose


def asked_of(note: Note, analysis: Analysis, correction: Floats, formant: Floats, *, stretch: float = 1.0) -> Asked:
    """Summary over a note of the track's correction and formant shift in semitones, shape (n_frames,)."""
    a, b = note_frames(note, len(correction))
    change, tract = correction[a:b], formant[a:b]
    if stretch == 1.0 and not change.any() and not tract.any():
        return Asked(0.0, 0.0, 0.0, 0.0, 0.0, note.centre_midi, LITTLE_BREATH_DB)
    steps = np.abs(np.diff(change)) / HOP_S
    high = analysis.high_db[a:b] if len(analysis.high_db) >= b else analysis.level_db[a:b] - 30.0
    return Asked(
        float(change.mean()),
        float(change.std()),
        quantile_of(steps, 0.95) if len(steps) else 0.0,
        float(tract.mean()),
        float(np.log2(stretch)),
        note.centre_midi,
        float(np.mean(high) - np.mean(analysis.level_db[a:b])),
    )


def damage(asked: Asked) -> float:
    """Expected mel-cepstral distance in dB between the rendered note and the same singer singing it so."""
    size = abs(asked.shift)
    rendered = min(1.0, (np.sqrt(size) + min(asked.bend, 1.0) + abs(asked.formant)) / _RENDERED)
    height = max(0.0, asked.pitch - 55.0) / 12.0
    breath = max(0.0, asked.breath_db - LITTLE_BREATH_DB) / 10.0
    total = (_UP if asked.shift > 0 else _DOWN) * np.sqrt(size)
    total += _WIDER * max(asked.formant, 0.0) + _SMALLER * max(-asked.formant, 0.0)
    total += rendered * (_BREATH * breath + _HEIGHT * height) + _HIGH_SHIFT * np.sqrt(size) * height
    total += (_STRETCH + _HIGH_STRETCH * height) * abs(asked.stretch)
    return float(total + _STEEP * min(asked.steepness, 60.0))


def strain(asked: Asked) -> float:
    """How audible the processing may be, 0 to 100; 50 where the expected damage is 2.1 dB."""
    cube = damage(asked) ** 3
    return 100.0 * cube / (cube + _HALF_DB**3)


def kept(sung: Floats, correction: Floats) -> float:
    """How much of a note's own movement is left, 0 to 100 %: tuned movement along the sung one.

    Both in semitones over the note's frames, shape (n,); unvoiced frames are NaN.
    """
    known = np.isfinite(sung)
    if not known.any() or not correction[known].any():
        return 100.0
    own = sung[known] - sung[known].mean()
    power = float(np.dot(own, own))
    if power < len(own) * LOW_MOVEMENT**2:
        return 100.0
    left = own + correction[known] - correction[known].mean()
    return 100.0 * float(np.clip(np.dot(left, own) / power, 0.0, 1.0))


def advice(asked: Asked, *, two_pitches: bool = False) -> str:
    """What to do about a strained note, in words; empty when nothing is asked of it."""
    size = abs(asked.shift)
    if size > 2.0:
        return "Have it sung again: it is more than two semitones off."
    if abs(asked.formant) > 0.5 and abs(asked.formant) > size:
        return "Shift the formants less."
    if two_pitches:
        return "Split it first: the two halves want different corrections."
    if asked.steepness > 12.0 and asked.bend > 0.15:
        return "Put an end back as sung, or make the glide longer: the correction turns fast there."
    return "Pull less." if size > 0.02 or asked.bend > 0.02 else ""
