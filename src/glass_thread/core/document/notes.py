"""The notes of a track with what is asked of each, and changes to them.

A change maps note ids to (before, after), where None means that the note is not there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from ..signal.errors import NotFoundError, ParameterError
from ..signal.types import Note
from ..song.keys import KeyMap
from .gestures import AS_SUNG, Gesture, target_of


@dataclass(frozen=True)
class EditedNote:
    """A note, what is asked of it, and the kinds of flags that the user judged to be meant.

    Attributes
    ----------
    by_pass : tuple of str
        Names of the values that a pass set, not a hand: another pass replaces them.
    leave_as_sung : bool
        Passes, glazes, quantising and following leave the note alone, until a hand edits it.
    """

    note: Note
    gesture: Gesture = AS_SUNG
    meant: tuple[str, ...] = ()
    by_pass: tuple[str, ...] = ()
    leave_as_sung: bool = False

    @property
    def span_s(self) -> tuple[float, float]:
        """Start and end in seconds."""
        return self.note.start_s, self.note.end_s


Notes = Mapping[str, EditedNote]
NoteChange = dict[str, tuple[EditedNote | None, EditedNote | None]]


def selected(notes: Notes, note_ids: Sequence[str]) -> list[EditedNote]:
    """The named notes; unknown, doubled or no names are refused."""
    if not note_ids:
        raise ParameterError("Nothing is selected. Select at least one note first.")
    missing = [note_id for note_id in note_ids if note_id not in notes]
    if missing:
        raise NotFoundError(f"There is no note “{missing[0]}” in this track.")
    if len(set(note_ids)) != len(note_ids):
        raise ParameterError("A note is named twice in one edit.")
    return [notes[note_id] for note_id in note_ids]


def neighbours_of(notes: Notes, note: Note) -> list[float]:
    """Centres of the notes just before and after `note`, where there are any."""
    before = [e.note for e in notes.values() if e.note.end_s <= note.start_s + 1e-6]
    after = [e.note for e in notes.values() if e.note.start_s >= note.end_s - 1e-6]
    near = []
    if before:
        near.append(max(before, key=lambda n: n.end_s).centre_midi)
    if after:
        near.append(min(after, key=lambda n: n.start_s).centre_midi)
    return near


def current_target(notes: Notes, edited: EditedNote, keys: KeyMap) -> float:
    """The note's target in MIDI, by hand or by rounding."""
    if edited.gesture.target_midi is not None:
        return edited.gesture.target_midi
    return target_of(edited.note, edited.gesture, keys, neighbours_of(notes, edited.note))


def neighbours_of_all(notes: Notes) -> dict[str, list[float]]:
    """The same for all notes by id, in one go through them."""
    ordered = sorted((edited.note for edited in notes.values()), key=lambda note: note.start_s)
    return {
        note.id: [ordered[k].centre_midi for k in (i - 1, i + 1) if 0 <= k < len(ordered)]
        for i, note in enumerate(ordered)
    }


def current_targets(notes: Notes, keys: KeyMap) -> dict[str, float]:
    """The targets of all notes by id, in MIDI."""
    around = neighbours_of_all(notes)
    return {i: target_of(edited.note, edited.gesture, keys, around[i]) for i, edited in notes.items()}


def with_gesture(notes: Notes, edited: EditedNote, keys: KeyMap, gesture: Gesture) -> EditedNote:
    """A note with another gesture; a target that comes into use is fixed, so that a later change of key keeps it."""
    asked = replace(edited, gesture=gesture)
    if gesture.pull > 0.0 and gesture.target_midi is None:
        asked = replace(asked, gesture=replace(gesture, target_midi=current_target(notes, asked, keys)))
    return asked


def by_hand(change: Mapping[str, tuple[Any, Any]]) -> dict[str, tuple[Any, Any]]:
    """A change that a hand makes: a value it sets is no pass's any more, and no mark keeps what it edits as sung."""
    return {key: (before, _by_hand(before, after)) for key, (before, after) in change.items()}


def _by_hand(before: object, after: object) -> object:
    if not (isinstance(before, EditedNote) and isinstance(after, EditedNote)) or before.gesture == after.gesture:
        return after
    kept = tuple(n for n in after.by_pass if getattr(before.gesture, n) == getattr(after.gesture, n))
    marked = after.leave_as_sung and not before.leave_as_sung
    return replace(after, by_pass=kept, leave_as_sung=marked)


def difference(before: Sequence[EditedNote], after: Sequence[EditedNote]) -> NoteChange:
    """The change between two states of the same notes, without those that stay."""
    return {b.note.id: (b, a) for b, a in zip(before, after, strict=True) if b != a}
