"""Edit operations on what was judged of notes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ....song.keys import KeyMap
from ...flags import FLAG_KINDS
from ...notes import NoteChange, Notes, difference, selected


def mean_so(notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], kinds: Sequence[str], meant: bool) -> NoteChange:
    """Take flags of some kinds off notes because they are meant, or (`meant` False) let them be shown again."""
    del keys
    chosen = selected(notes, note_ids)
    after = []
    for edited in chosen:
        now = {*edited.meant, *kinds} if meant else set(edited.meant) - set(kinds)
        after.append(replace(edited, meant=tuple(one for one in FLAG_KINDS if one in now)))
    return difference(chosen, after)


def mark_spoken(notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], spoken: bool) -> NoteChange:
    """Say that notes are talk, or that they are sung."""
    del keys
    chosen = selected(notes, note_ids)
    return difference(chosen, [replace(edited, note=replace(edited.note, spoken=spoken)) for edited in chosen])
