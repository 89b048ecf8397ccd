"""Keys of a song: a tonic and a scale, in a tuning, and where they change."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..signal.errors import ParameterError
from ..signal.scale_steps import SCALES
from ..signal.types import Note
from ..signal.units import A4_MIDI, DEFAULT_REFERENCE_HZ, hz_to_midi, midi_to_hz
from .scala_steps import KeyboardMap, ScalaScale, scala_steps
from .temperaments import OCTAVE, TEMPERAMENTS, Steps, twelve_on
from .tuning import Tuning

LOWEST_REFERENCE_HZ, HIGHEST_REFERENCE_HZ = 380.0, 500.0
MOST_CHANGES = 500
_SETTLED_S = 0.1  # into a note, where it has left the one before it
_TONICS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}


@dataclass(frozen=True)
class Temper:
    """How steps are laid: by a temperament's name, or a Scala scale with or without a keyboard mapping; and which key
    has which frequency, where the mapping does not say."""

    name: str = "equal"
    scala: ScalaScale | None = None
    keyboard: KeyboardMap | None = None
    reference_key: int = int(A4_MIDI)
    reference_hz: float = DEFAULT_REFERENCE_HZ

    @property
    def offset(self) -> float:
        """Semitones by which the reference lies above A4 = 440 Hz."""
        return float(hz_to_midi(self.reference_hz)) - self.reference_key

    def steps_on(self, tonic: int) -> Steps:
        """Every pitch there is when a pitch class is the tonic.

        Raises
        ------
        ParameterError
            If the reference is not usable or the temperament is unknown.
        """
        if not 0 <= self.reference_key <= 127:
            raise ParameterError("The reference note must be one of the keys 0 to 127 of a MIDI keyboard.")
        a4 = float(midi_to_hz(A4_MIDI + self.offset)) if self.reference_hz > 0.0 else 0.0
        if not np.isfinite(self.reference_hz) or not LOWEST_REFERENCE_HZ <= round(a4, 6) <= HIGHEST_REFERENCE_HZ:
            raise ParameterError("The reference pitch for A4 must be between 380 and 500 Hz.")
        key, midi = self.reference_key, self.reference_key + self.offset
        if self.scala is not None:
            return scala_steps(self.scala, self.keyboard, tonic, reference_key=key, reference_midi=midi)
        if self.name not in TEMPERAMENTS:
            raise ParameterError(f"“{self.name}” is not a tuning we know; choose one of: {', '.join(TEMPERAMENTS)}.")
        return twelve_on(TEMPERAMENTS[self.name], tonic, reference_key=key, reference_midi=midi)


def make_tuning(
    tonic: int,
    scale: str,
    *,
    classes: Sequence[int] = (),
    temper: Temper | None = None,
    reference_hz: float = DEFAULT_REFERENCE_HZ,
) -> Tuning:
    """A tuning from a named scale, or from `classes` (steps of a period, from 0) when `scale` is "custom"; `temper`
    says how steps are laid, else they are equal-tempered with A4 at `reference_hz`.

    Raises
    ------
    ParameterError
        If the tonic, the scale's name, the classes or the reference pitch (380 to 500 Hz) is not usable, or the scale
        belongs to twelve steps where there are others.
    """
    if not 0 <= tonic < OCTAVE:
        raise ParameterError("The tonic must be one of the twelve pitch classes, 0 (C) to 11 (B).")
    temper = temper or Temper(reference_hz=reference_hz)
    steps = temper.steps_on(tonic)
    chosen = _classes(tonic, scale, classes, steps)
    return Tuning(int(tonic), scale, chosen, steps, temper.offset)


def _classes(tonic: int, scale: str, classes: Sequence[int], steps: Steps) -> tuple[int, ...]:
    count = len(steps.heights)
    if scale == "custom":
        chosen = tuple(sorted({int(one) for one in classes}))
        if not chosen or chosen[0] < 0 or chosen[-1] >= count:
            raise ParameterError(f"A scale of your own needs at least one step from 0 to {count - 1}.")
        return chosen
    if scale not in SCALES:
        raise ParameterError(f"“{scale}” is not a scale we know; choose one of: {', '.join(SCALES)}.")
    if steps.twelve:
        return tuple(sorted((tonic + step) % OCTAVE for step in SCALES[scale]))
    if scale != "chromatic":
        raise ParameterError(
            f"“{scale.capitalize()}” chooses among twelve steps to the octave, and this tuning has {count} to its "
            f"period. What works with it: every step (chromatic), or steps of your own, 0 to {count - 1} (custom)."
        )
    return tuple(range(count))


def parse_key(text: str, *, temper: Temper | None = None) -> Tuning:
    """Read a key like ``F# minor``, ``Bb major`` or ``D dorian``; plain minor means natural minor."""
    words = text.replace("♯", "#").replace("♭", "b").split(maxsplit=1)
    letter = words[0][:1].upper() if words else ""
    if letter not in _TONICS or words[0][1:] not in ("", "#", "b"):
        raise ParameterError(f"“{text}” is not a key. Write it like F# minor or Bb major.")
    tonic = (_TONICS[letter] + {"": 0, "#": 1, "b": -1}[words[0][1:]]) % OCTAVE
    scale = words[1].strip().lower() if len(words) > 1 else "major"
    return make_tuning(tonic, "natural minor" if scale == "minor" else scale, temper=temper)


@dataclass(frozen=True)
class KeyMap:
    """The tunings of a song in the clock of a recording: the first, and others from `starts_s` on."""

    tunings: tuple[Tuning, ...]
    starts_s: tuple[float, ...] = ()

    @property
    def first(self) -> Tuning:
        """The tuning that the song begins with."""
        return self.tunings[0]

    def at(self, source_s: float) -> Tuning:
        """The tuning at a moment of the recording."""
        return self.tunings[int(np.searchsorted(self.starts_s, source_s, side="right"))]

    def of(self, note: Note) -> Tuning:
        """The tuning a note is sung in: that of the moment when it has settled."""
        return (
            self.at(min(note.start_s + _SETTLED_S, (note.start_s + note.end_s) / 2.0)) if self.starts_s else self.first
        )


def one_key(tuning: Tuning) -> KeyMap:
    """The map of a song that stays in one key."""
    return KeyMap((tuning,))
