"""Edit operations on borrows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from .....signal.errors import ParameterError
from .....signal.types import HOP_S, Analysis
from .....song.keys import KeyMap
from ....content import Content, ContentChange, Edited, EditedAir, as_found, fresh_ids, named, picked
from ....gestures import Gesture
from ....items.borrows import Borrow, taken_over
from ....notes import EditedNote
from ....words import Loan, Word, word_of

_OVERHANG_S = 0.12  # of something borrowed before that may reach beyond what takes its place
_SHORTEST_S = 0.02  # of a note or event that is cut where the borrow ends


def borrow(content: Content, loan: Loan | None, *, note_ids: Sequence[str], **_asked: Any) -> ContentChange:
    """Lay a word in: what lay there goes, its notes and air come with what is asked of them."""
    if loan is None:
        raise ParameterError("A file alone has nothing to borrow from: borrow in a song.")
    target, laid = word_of(content, note_ids), loan.borrow
    change: dict[str, tuple[Edited | None, Edited | None]] = _cleared(content, laid, note_ids)
    letters = (("w", 1), ("n", len(loan.word.notes)), ("a", len(loan.word.air)))
    (name,), notes, air = (fresh_ids(content, letter, n) for letter, n in letters)
    change[name] = (None, replace(laid, id=name))
    for note_id, edited in zip(notes, loan.word.notes, strict=True):
        change[note_id] = (None, _brought(edited, laid, note_id, target))
    for air_id, event in zip(air, loan.word.air, strict=True):
        brought = _brought_air(event, laid, air_id)
        if brought.event.end_s - brought.event.start_s >= _SHORTEST_S:
            change[air_id] = (None, brought)
    return change


def _cleared(content: Content, laid: Borrow, note_ids: Sequence[str]) -> dict[str, tuple[Edited | None, Edited | None]]:
    """What goes: the notes, the air that begins inside, and what was borrowed there before."""
    gone: dict[str, tuple[Edited | None, Edited | None]] = {i: (content.notes[i], None) for i in note_ids}
    for old in taken_over(content.borrows.values(), laid):
        if old.start_s < laid.start_s - _OVERHANG_S or old.end_s > laid.end_s + _OVERHANG_S:
            raise ParameterError("Part of this was borrowed before: give that back first, or select all of it.")
        gone[old.id] = (old, None)
    for air_id, event in content.air.items():
        a, b = event.span_s
        if min(b, laid.end_s) - max(a, laid.start_s) > 0.5 * (b - a):
            gone[air_id] = (event, None)
    return gone


def _at(laid: Borrow, from_s: float) -> float:
    """Where a moment of the other recording lies, to the frame."""
    return round(float(laid.places_of(from_s)) / HOP_S) * HOP_S


def _ends(edited: EditedNote, laid: Borrow, target: Word) -> tuple[float, float]:
    """Where a note lies: where what it replaces begins and ends it meets that to the last bit."""
    start_s, end_s = (_at(laid, at) for at in edited.span_s)
    if abs(start_s - target.vowel_s) <= 2 * HOP_S:
        start_s = target.vowel_s
    return start_s, target.last_s if abs(end_s - target.last_s) <= 2 * HOP_S else end_s


def _brought(edited: EditedNote, laid: Borrow, note_id: str, target: Word) -> EditedNote:
    note, (first, last) = edited.note, (target.notes[0], target.notes[-1])
    start_s, end_s = _ends(edited, laid, target)
    longer = (end_s - start_s) / (note.end_s - note.start_s)
    span = None if note.centre_span is None else (_at(laid, note.centre_span[0]), _at(laid, note.centre_span[1]))
    same = abs(longer - 1.0) < 1e-3
    reading = replace(note.reading, first=round(_at(laid, note.reading.first * HOP_S) / HOP_S)) if (
        note.reading and same) else None  # fmt: skip
    here = replace(
        note, id=note_id, start_s=start_s, end_s=end_s, phrase=first.note.phrase, reading=reading,
        drift_cents_per_s=note.drift_cents_per_s / longer, centre_span=span,
    )  # fmt: skip
    shifts = (first.gesture.start_shift_ms if start_s == target.vowel_s else 0.0,
              last.gesture.end_shift_ms if end_s == target.last_s else 0.0)  # fmt: skip
    return EditedNote(here, _moved(edited.gesture, laid, shifts), edited.meant)


def _moved(gesture: Gesture, laid: Borrow, shifts: tuple[float, float]) -> Gesture:
    strokes = tuple(replace(stroke, points=tuple((float(laid.places_of(t)), p) for t, p in stroke.points))
                    for stroke in gesture.hand)  # fmt: skip
    return replace(gesture, hand=strokes, start_shift_ms=shifts[0], end_shift_ms=shifts[1])


def _brought_air(air: EditedAir, laid: Borrow, air_id: str) -> EditedAir:
    a, b = (min(max(_at(laid, at), laid.start_s), laid.end_s) for at in air.span_s)
    return replace(air, event=replace(air.event, id=air_id, start_s=a, end_s=b))


def give_back(content: Content, keys: KeyMap, analysis: Analysis, *, borrow_ids: Sequence[str] = ()) -> ContentChange:
    """Take borrows away; notes and air there are again as they were found."""
    del keys
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    found = as_found(analysis.as_recorded)
    names = {letter: iter(fresh_ids(content, letter, len(found.notes) + len(found.air))) for letter in "na"}
    for laid in picked(content.borrows, borrow_ids, what="borrow", where="on this version"):
        change[laid.id] = (laid, None)
        for here, was in ((content.notes, found.notes), (content.air, found.air)):
            gone = {i: one for i, one in here.items() if _inside(one, laid)}
            change |= {i: (one, None) for i, one in gone.items()}
            kept = [one for i, one in here.items() if i not in gone]
            for i, one in was.items():
                if _inside(one, laid) and not any(_cross(one, other) for other in kept):
                    free = i not in here
                    name = i if free else next(names[i[0]])
                    change[name] = (change.get(name, (None, None))[0], one if free else named(one, name))
    return change


def _inside(one: EditedNote | EditedAir, laid: Borrow) -> bool:
    a, b = one.span_s
    return laid.start_s <= (a + b) / 2.0 < laid.end_s


def _cross(one: EditedNote | EditedAir, other: EditedNote | EditedAir) -> bool:
    return one.span_s[0] < other.span_s[1] - HOP_S and one.span_s[1] > other.span_s[0] + HOP_S
