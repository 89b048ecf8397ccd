"""Scales as sets of pitch classes, and rounding a pitch to them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..signal.errors import ParameterError
from ..signal.scale_steps import SCALES
from ..signal.types import Rounding
from ..signal.units import DEFAULT_REFERENCE_HZ, HIGHEST_MIDI, LOWEST_MIDI, hz_to_midi, parse_pitch
from ..signal.validation import in_range

_TONICS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_FLAT_MAJORS = frozenset({5, 10, 3, 8, 1})
# Keys of six signs are written either way: E♭ and B♭ are never called D♯ and A♯ (common practice, no source).
_SIX_SIGNS, _FLAT_BY_HABIT = 6, frozenset({3, 5, 10})
_NEAREST_TIE = 1e-9


@dataclass(frozen=True)
class Key:
    """Tonic (pitch class 0 to 11), scale name (or "custom") and the allowed pitch classes.

    `reference_hz` is the tuning of A4; scale pitches are offset by it.
    """

    tonic: int
    scale: str
    classes: tuple[int, ...]
    reference_hz: float = DEFAULT_REFERENCE_HZ

    @property
    def offset(self) -> float:
        """Semitones by which this tuning lies above A4 = 440 Hz."""
        return float(hz_to_midi(self.reference_hz)) - 69.0

    @property
    def flats(self) -> bool:
        """True when the key is spelled with flats."""
        shift = {
            "natural minor": 3,
            "harmonic minor": 3,
            "melodic minor": 3,
            "minor pentatonic": 3,
            "dorian": 10,
            "phrygian": 8,
            "lydian": 7,
            "mixolydian": 5,
            "locrian": 1,
        }.get(self.scale, 0)
        major = (self.tonic + shift) % 12
        return major in _FLAT_MAJORS or (major == _SIX_SIGNS and self.tonic in _FLAT_BY_HABIT)


def make_key(
    tonic: int,
    scale: str,
    *,
    classes: Sequence[int] = (),
    reference_hz: float = DEFAULT_REFERENCE_HZ,
) -> Key:
    """Build a key from a named scale, or from `classes` (pitch classes) when `scale` is "custom".

    Raises
    ------
    ParameterError
        If the tonic, the scale name, the classes or the reference pitch (380 to 500 Hz) is not usable.
    """
    if not 0 <= tonic <= 11:
        raise ParameterError("The tonic must be one of the twelve pitch classes, 0 (C) to 11 (B).")
    if not np.isfinite(reference_hz) or not 380.0 <= reference_hz <= 500.0:
        raise ParameterError("The reference pitch for A4 must be between 380 and 500 Hz.")
    if scale == "custom":
        chosen = tuple(sorted({int(c) for c in classes}))
        if not chosen or chosen[0] < 0 or chosen[-1] > 11:
            raise ParameterError("A scale of your own needs at least one pitch class from 0 to 11.")
    elif scale in SCALES:
        chosen = tuple(sorted((tonic + step) % 12 for step in SCALES[scale]))
    else:
        raise ParameterError(f"“{scale}” is not a scale we know; choose one of: {', '.join(SCALES)}.")
    return Key(int(tonic), scale, chosen, float(reference_hz))


def parse_key(text: str, *, reference_hz: float = DEFAULT_REFERENCE_HZ) -> Key:
    """Read a key like ``F# minor``, ``Bb major`` or ``D dorian``; plain minor means natural minor."""
    words = text.replace("♯", "#").replace("♭", "b").split(maxsplit=1)
    letter = words[0][:1].upper() if words else ""
    if letter not in _TONICS or words[0][1:] not in ("", "#", "b"):
        raise ParameterError(f"“{text}” is not a key. Write it like F# minor or Bb major.")
    tonic = (_TONICS[letter] + {"": 0, "#": 1, "b": -1}[words[0][1:]]) % 12
    scale = words[1].strip().lower() if len(words) > 1 else "major"
    return make_key(tonic, "natural minor" if scale == "minor" else scale, reference_hz=reference_hz)


def round_pitch(midi: float, key: Key, rounding: Rounding, *, neighbours: Sequence[float] = ()) -> float:
    """Nearest allowed pitch to `midi` (MIDI at A4 = 440 Hz).

    Scale rounding takes the nearest scale note; of two that are equally near
    (within 10 cents), the one nearer to the melody's `neighbours` wins.
    """
    if rounding == "free":
        return float(midi)
    position = midi - key.offset
    if rounding == "semitone":
        return float(np.floor(position + 0.5)) + key.offset
    pitches = scale_pitches(key, position - 12.0, position + 12.0)
    distance = np.abs(pitches - position)
    order = np.argsort(distance, kind="stable")
    best = pitches[order[0]]
    if len(order) > 1 and distance[order[1]] - distance[order[0]] < 0.2 and len(neighbours):
        around = np.asarray(neighbours, dtype=np.float64) - key.offset
        second = pitches[order[1]]
        if np.abs(around - second).mean() < np.abs(around - best).mean() - _NEAREST_TIE:
            best = second
    return float(best) + key.offset


def scale_pitches(key: Key, low: float, high: float) -> np.ndarray:
    """Scale notes as whole MIDI numbers within [low, high], without the tuning offset."""
    allowed = np.zeros(12, dtype=bool)
    allowed[list(key.classes)] = True
    whole = np.arange(np.ceil(low), np.floor(high) + 1)
    return whole[allowed[whole.astype(np.int64) % 12]]


def allowed_pitches(key: Key, rounding: Rounding, low: float, high: float) -> np.ndarray:
    """The pitches within [low, high] that a rounding may choose, in MIDI at A4 = 440 Hz, rising."""
    if rounding == "scale":
        return scale_pitches(key, low - key.offset, high - key.offset) + key.offset
    return np.arange(np.ceil(low - key.offset), np.floor(high - key.offset) + 1) + key.offset


def step_pitch(midi: float, steps: int, key: Key, rounding: Rounding) -> float:
    """Pitch `steps` allowed pitches above (or below) `midi`; the first step lands on the nearest one beyond."""
    if rounding == "free":
        return midi + 0.1 * steps
    position = midi - key.offset
    allowed = (
        np.arange(np.floor(position) - 60, position + 61)
        if rounding == "semitone"
        else scale_pitches(key, position - 60, position + 60)
    )
    if steps > 0:
        beyond = allowed[allowed > position + 0.005]
        return float(beyond[min(steps, len(beyond)) - 1]) + key.offset
    beyond = allowed[allowed < position - 0.005][::-1]
    return float(beyond[min(-steps, len(beyond)) - 1]) + key.offset


def typed_pitch(text: str, key: Key) -> float:
    """The MIDI pitch of a typed name, number or frequency (see `parse_pitch`) in the tuning of a key."""
    in_hertz = text.lower().rstrip().endswith("hz")
    midi = parse_pitch(text, key.reference_hz) + (0.0 if in_hertz else key.offset)
    return in_range(midi, LOWEST_MIDI, HIGHEST_MIDI, "The target")
