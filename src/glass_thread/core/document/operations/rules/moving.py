"""Many notes moved at once, as far as what is between them gives way."""

from __future__ import annotations

import itertools

from ....signal.errors import ParameterError
from ....signal.types import Analysis
from ...content import Content, apply_to_content
from ...notes import EditedNote, NoteChange
from ...time.give_way import SOON_S, Giving, give_way
from .time_edits import shifted, with_neighbours

_ROUNDS = 40  # of leaving notes where they are because nothing gives way to them


def moved_where_it_fits(
    content: Content, analysis: Analysis, moved: dict[str, EditedNote], before: Giving
) -> NoteChange:
    """The change that moves notes, by id; those that nothing gives way to are taken out of `moved` and left.

    `before` is what gives way as it stands.
    """
    giving, again = before, [edited.span_s for edited in moved.values()]
    for _ in range(_ROUNDS):
        change = with_neighbours(content, analysis, _held_on(content, moved))
        giving = give_way(analysis, apply_to_content(content, change), giving, again)
        squeezed = _at_fault(giving, before, moved)
        if not squeezed:
            return change
        again = [moved.pop(note_id).span_s for note_id in squeezed]
    raise ParameterError("Too much would have to give way for this; choose fewer notes at once, or a lower strength.")


def _held_on(content: Content, moved: dict[str, EditedNote]) -> list[EditedNote]:
    """The moved notes, with ends that go with the start of the next note where that follows soon."""
    now = [moved.get(note_id, edited) for note_id, edited in content.notes.items()]
    held = {edited.note.id: edited for edited in moved.values()}
    for left, right in itertools.pairwise(now):
        if left.note.id in moved and right.note.start_s - left.note.end_s < SOON_S:
            held[left.note.id] = shifted(left, left.gesture.start_shift_ms, right.gesture.start_shift_ms)
    return list(held.values())


def _at_fault(after: Giving, before: Giving, moved: dict[str, EditedNote]) -> list[str]:
    """Moved notes beside a section in which too little gives way, the one that moved furthest in each."""
    known = {section for section, _short in before.short}
    found = []
    for section, _short in after.short:
        if section in known:
            continue
        edges = {round(anchor.source_s, 6) for anchor in section}
        beside = [e for e in moved.values() if edges & {round(at, 6) for at in e.span_s}]
        beside = beside or [min(moved.values(), key=lambda e: abs(e.note.start_s - section[0].source_s))]
        found.append(max(beside, key=lambda e: abs(e.gesture.start_shift_ms)).note.id)
    return list(dict.fromkeys(found))
