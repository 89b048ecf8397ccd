"""Operations that make another voice of the one that was sung."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..voices.melodies import WAYS
from .kinds import choice, chord_notes, ids, melody, number, switch, whole
from .operation import Operation
from .rules.voices import chord_edits, derived_edits
from .rules.voices.derived_edits import AIR_WAYS

MOST_SEED = 999_999
MOST_VOICES = 4  # of a double


CHORD_NOTES = "start and end in seconds of the track, and a pitch class from C on, of each chord note, the root first"
_MELODY = "start and end in seconds of the track, and MIDI pitch, of each note"


def _match() -> str:
    return choice(WAYS, "How notes find theirs in a melody", default="time")


def _exact() -> bool:
    return switch("The octave is that of the melody, not the nearest one", default=True)


def _note_ids() -> Sequence[str]:
    return ids("Ids of the notes; all when empty", "n0001", default=())


@dataclass(frozen=True, kw_only=True)
class MakeDouble(Operation, type="double", label="Double", rule=derived_edits.double, needs="content", by_hand=False):
    """Let notes wander from what they are, as a second performance would; the same seed wanders the same way."""

    seed: int = whole(0, MOST_SEED, "Seed", default=1)
    note_ids: Sequence[str] = _note_ids()
    timing_ms: float = number(0.0, 80.0, "How far times wander", unit="ms", default=16.0)
    pitch_cents: float = number(0.0, 60.0, "How far pitches wander", unit="cents", default=9.0)
    level_db: float = number(0.0, 6.0, "How far levels wander", unit="dB", default=0.8)
    formant: float = number(-6.0, 6.0, "Shift of the formants", unit="semitones", default=0.3)
    air: str = choice(AIR_WAYS, "What its sibilants and breaths do", default="lowered")


@dataclass(frozen=True, kw_only=True)
class MakeHarmony(
    Operation, type="harmony", label="Harmony", rule=derived_edits.harmony, needs="content", by_hand=False
):
    """Put notes above or below what they are, by steps of the scale or by semitones, or on a melody."""

    steps: int = whole(-14, 14, "Steps of the scale", default=0)
    semitones: float = number(-24.0, 24.0, "Interval, where no steps are given", unit="semitones", default=0.0)
    melody: Sequence[Sequence[float]] = melody(f"In place of an interval: {_MELODY}", default=())
    match: str = _match()
    exact: bool = _exact()
    chords: Sequence[Sequence[float]] = chord_notes(f"Keeps to the notes of these: {CHORD_NOTES}", default=())
    note_ids: Sequence[str] = _note_ids()
    lean: float = number(0.0, 1.0, "How far formants lean with the interval", default=0.12)
    seed: int = whole(0, MOST_SEED, "Seed of what makes it human", default=1)
    human: float = number(0.0, 1.0, "How human it is: times, pitches and levels wander", default=0.6)
    air: str = choice(AIR_WAYS, "What its sibilants and breaths do", default="lowered")


@dataclass(frozen=True, kw_only=True)
class LeanToChords(
    Operation, type="lean_to_chords", label="Pure intervals", rule=chord_edits.lean_to_chords, needs="content"
):
    """Let held thirds and fifths of the chord lean to the pure interval over its root."""

    chords: Sequence[Sequence[float]] = chord_notes(f"The chords: {CHORD_NOTES}")
    note_ids: Sequence[str] = ids("Ids of the notes", "n0001")
    share: float = number(0.0, 1.0, "How far they lean", default=1.0)
    least_s: float = number(0.0, 10.0, "How long a note is held at least", unit="seconds", default=0.3)


@dataclass(frozen=True, kw_only=True)
class SingMelody(
    Operation, type="melody", label="Melody", rule=derived_edits.sing_melody, needs="content", by_hand=False
):
    """Put notes on the pitches of a melody, each on the one that is its own by time, by order or by following."""

    melody: Sequence[Sequence[float]] = melody(_MELODY)
    note_ids: Sequence[str] = _note_ids()
    lean: float = number(0.0, 1.0, "How far formants lean with the interval", default=0.0)
    exact: bool = _exact()
    match: str = _match()
