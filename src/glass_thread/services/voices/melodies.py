"""Melodies that are given to a voice: read from a MIDI file, typed, and matched with what is sung."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import BinaryIO

from ...core.document.notes import selected
from ...core.document.operations.rules.voices.derived_edits import melody_places
from ...core.signal.errors import ParameterError
from ...core.song.tuning import Tuning
from ...formats.midi_notes import read_midi_notes
from ..session.desk import Desk, Standing
from ..session.meters import keys_of

LONGEST_TYPED = 20_000
_LEFT_OUT = frozenset("-–−.")


@dataclass(frozen=True)
class MelodyMatch:
    """What of a melody and of the notes of a track did not find each other: ids of notes, and places in the melody."""

    alone: list[str]
    melody_alone: list[int]


def melody_match(
    desk: Desk, standing: Standing, note_ids: Sequence[str], melody: Sequence[Sequence[float]], match: str
) -> MelodyMatch:
    """Which notes of a track, all when none is named, and of a melody belong to none of the other."""
    notes = standing.content.notes
    chosen = selected(notes, note_ids) if note_ids else list(notes.values())
    places = melody_places(standing.content, standing.analysis, chosen, melody, match)
    taken = set(places)
    return MelodyMatch([one.note.id for one, place in zip(chosen, places, strict=True) if place < 0],
                       [place for place in range(len(melody)) if place not in taken])  # fmt: skip


def melody_of_midi(stream: BinaryIO, tuning: Tuning) -> list[tuple[float, float, float]]:
    """Start and end in seconds and pitch of every note of a Standard MIDI file; AudioError when it is none.

    The keys of a file without pitch bend are those that play a tuning; where it bends, they sound equal-tempered.
    """
    found = []
    for note in read_midi_notes(stream):
        pitch = None if note.bend else tuning.steps.pitch_of(note.key)
        found.append((note.start_s, note.end_s, note.key + note.bend + tuning.offset if pitch is None else pitch))
    return found


def typed_melody(desk: Desk, song_id: str, text: str) -> list[float | None]:
    """The MIDI pitch of each name of a typed line, such as ``E4 F#4 – Bb4``; None where a note is left out.

    Raises
    ------
    ParameterError
        Naming the first word that is no pitch, and where it stands.
    """
    tuning = keys_of(desk.workspace.songs.get(song_id))[0].tuning
    words = text.replace(",", " ").split()
    found = list[float | None]()
    for place, word in enumerate(words, 1):
        if set(word) <= _LEFT_OUT:
            found.append(None)
            continue
        try:
            found.append(tuning.typed(word))
        except ParameterError as error:
            raise ParameterError(
                f"The melody's note {place}, “{word[:20]}”, is no pitch: write E4, F#4 or Bb3, and – for none."
            ) from error
    if not any(midi is not None for midi in found):
        raise ParameterError("Type the melody's notes, for example E4 F#4 G4; – leaves a note out.")
    return found
