"""Pitches that a note may be meant to have, and how each sits on what sounds around it."""

from __future__ import annotations

from typing import NamedTuple

from ...core.document.notes import selected
from .desk import Desk, Standing


class Candidate(NamedTuple):
    """A pitch in MIDI, its name, and how it sits on the backing in words."""

    midi: float
    label: str
    sits: str


def candidates(desk: Desk, standing: Standing, note_id: str) -> list[Candidate]:
    """The two candidates of a note, or, where none are named, the allowed pitches below and above where it was sung."""
    (edited,) = selected(standing.content.notes, [note_id])
    tuning = standing.keys.of(edited.note)
    pitches = edited.gesture.candidates
    if not pitches:
        near = tuning.nearest(edited.note.centre_midi, "scale")
        pitches = near, tuning.stepped(near, 1 if edited.note.centre_midi > near else -1, "scale")
    around = desk.heard.surroundings(standing.setting)
    return [Candidate(midi, tuning.label(midi), around.sits(edited.note, midi)) for midi in pitches]
