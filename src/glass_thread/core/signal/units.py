"""Unit conversions, both ends named.  No other file holds a factor of 12 or 1200."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import ArrayLike, NDArray

from .errors import ParameterError

A4_MIDI = 69.0
DEFAULT_REFERENCE_HZ = 440.0  # ISO 16:1975
LOWEST_MIDI, HIGHEST_MIDI = 0.0, 127.0

_LETTERS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_SHARP_NAMES = ("C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B")
_FLAT_NAMES = ("C", "D♭", "D", "E♭", "E", "F", "G♭", "G", "A♭", "A", "B♭", "B")
_PITCH_TEXT = re.compile(
    r"^\s*([A-Ga-g])\s*([#♯b♭]?)\s*([-−]?\d)\s*(?:([+\-−])\s*(\d+(?:\.\d+)?)\s*(?:c|ct|cents?)?)?\s*$"
)


def hz_to_midi(hz: ArrayLike, reference_hz: float = DEFAULT_REFERENCE_HZ) -> NDArray[np.float64]:
    """Convert hertz to MIDI note numbers (float); A4 = 69 at `reference_hz`. NaN stays NaN."""
    return A4_MIDI + 12.0 * np.log2(np.asarray(hz, dtype=np.float64) / reference_hz)


def midi_to_hz(midi: ArrayLike, reference_hz: float = DEFAULT_REFERENCE_HZ) -> NDArray[np.float64]:
    """Convert MIDI note numbers (float) to hertz; inverse of `hz_to_midi`."""
    return reference_hz * np.exp2((np.asarray(midi, dtype=np.float64) - A4_MIDI) / 12.0)


def ratio_to_semitones(ratio: float) -> float:
    """The size of an interval between two frequencies."""
    return float(12.0 * np.log2(ratio))


def db_to_gain(db: ArrayLike) -> NDArray[np.float64]:
    """Amplitude factor of a level in decibels."""
    return np.power(10.0, np.asarray(db, dtype=np.float64) / 20.0)


def gain_to_db(gain: ArrayLike, floor_db: float = -120.0) -> NDArray[np.float64]:
    """Level in decibels of an amplitude factor, not below `floor_db`."""
    return 20.0 * np.log10(np.maximum(np.asarray(gain, dtype=np.float64), 10.0 ** (floor_db / 20.0)))


def parse_pitch(text: str, reference_hz: float = DEFAULT_REFERENCE_HZ) -> float:
    """Read a pitch typed by a user as a MIDI note number.

    Accepts a note name with octave (``F#4``, ``Bb3``), the same with cents
    (``F#4 +8``), a MIDI number (``66.08``) or a frequency (``371 Hz``).

    Raises
    ------
    ParameterError
        If the text is none of these or lies outside MIDI 0 to 127.
    """
    shown = text.strip()
    named = parse_name(text)
    value = _parse_number(shown, reference_hz) if named is None else named[0] + named[1] / 100.0
    if not LOWEST_MIDI <= value <= HIGHEST_MIDI:
        raise ParameterError(f"“{shown}” lies outside the pitches we know, C−1 to G9.")
    return value


def parse_name(text: str) -> tuple[int, float] | None:
    """The key of a MIDI keyboard and the cents of a name like ``F#4 +8``; None where a text is no name."""
    match = _PITCH_TEXT.match(text)
    if match is None:
        return None
    letter, accidental, octave, sign, cents = match.groups()
    key = 12 * (int(octave.replace("−", "-")) + 1) + _LETTERS[letter.upper()]
    key += {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[accidental]
    return key, float(cents) * (1 if sign == "+" else -1) if cents else 0.0


def _parse_number(shown: str, reference_hz: float) -> float:
    hertz = shown.lower().endswith("hz")
    try:
        value = float(shown[:-2] if hertz else shown)
    except ValueError:
        value = float("nan")
    if not np.isfinite(value) or (hertz and value <= 0):
        raise ParameterError(f"“{shown}” is not a pitch. Write it like F#4, F#4 +8 or 66.08.")
    return float(hz_to_midi(value, reference_hz)) if hertz else value


def class_name(pitch_class: int, *, flats: bool = False) -> str:
    """Name of a pitch class, 0 (C) to 11, for example ``F♯``."""
    return (_FLAT_NAMES if flats else _SHARP_NAMES)[pitch_class % 12]


def key_name(key: int, *, flats: bool = False) -> str:
    """Name of a key of a MIDI keyboard with its octave, for example ``F♯4``; C4 = 60."""
    octave = key // 12 - 1
    return class_name(key, flats=flats) + (f"−{-octave}" if octave < 0 else str(octave))


def pitch_name(midi: float, *, flats: bool = False) -> str:
    """Name of the nearest equal-tempered note, for example ``F♯4``; C4 = 60."""
    return key_name(int(np.floor(midi + 0.5)), flats=flats)


def signed_cents(semitones: float) -> str:
    """A distance as it is put behind a name: a space, a sign and whole cents; nothing for none."""
    cents = int(np.floor(semitones * 100.0 + 0.5))
    return "" if cents == 0 else f" {'+' if cents > 0 else '−'}{abs(cents)}"


def pitch_label(midi: float, *, flats: bool = False) -> str:
    """Name with signed cents, for example ``F♯4 −12``."""
    return pitch_name(midi, flats=flats) + signed_cents(midi - np.floor(midi + 0.5))
