"""Edits of one take carried over to another one of the same line, where notes are alike."""

from __future__ import annotations

from dataclasses import replace

from ...core.document.content import Content, ContentChange, Edited, EditedAir
from ...core.document.notes import EditedNote
from ...formats.plain_data import change_to_data
from ...store.history import NewStep
from ..session.desk import Desk

START_S, END_S, SEMITONES, AIR_S = 0.08, 0.15, 1.0, 0.06


def carry_over(desk: Desk, from_track: str, to_track: str) -> int:
    """Give the notes and air of a track what is asked of those of another one; how many were alike, as one step."""
    old, new = desk.at(from_track), desk.at(to_track)
    change = alike_change(old.content, new.content)
    if not change:
        return 0
    track = desk.workspace.tracks.get(to_track)
    version = desk.workspace.history.version(str(track.version_id))
    label = f"Carried over from “{old.track.name}” · {len(change)}"
    operation = {"type": "carried_over", "from": from_track, "step_id": old.step_id}
    desk.workspace.history.append([NewStep(version.id, version.head_id, label, operation, change_to_data(change))])
    return len(change)


def alike_change(old: Content, new: Content) -> ContentChange:
    """What is asked of notes and air of one content, for those of another that lie alike.

    Hand curves move with their note; times are left out, as another take has its own.
    """
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    edited = [one for one in old.notes.values() if not one.gesture.is_as_sung or one.meant]
    for note_id, now in new.notes.items():
        alike = [one for one in edited if _alike(one, now)]
        if not alike:
            continue
        was = min(alike, key=lambda one: abs(one.note.start_s - now.note.start_s))
        moved = now.note.start_s - was.note.start_s
        strokes = tuple(replace(s, points=tuple((t + moved, p) for t, p in s.points)) for s in was.gesture.hand)
        gesture = replace(was.gesture, hand=strokes, start_shift_ms=0.0, end_shift_ms=0.0)
        change[note_id] = (now, replace(now, gesture=gesture, meant=was.meant))
    changed = [one for one in old.air.values() if not one.is_as_sung]
    for air_id, here in new.air.items():
        near = [one for one in changed if one.event.kind == here.event.kind
                and abs(one.event.start_s - here.event.start_s) <= AIR_S]  # fmt: skip
        if near:
            change[air_id] = (here, EditedAir(here.event, near[0].level_db, near[0].muted))
    return change


def _alike(one: EditedNote, other: EditedNote) -> bool:
    a, b = one.note, other.note
    return (abs(a.start_s - b.start_s) <= START_S and abs(a.end_s - b.end_s) <= END_S
            and abs(a.centre_midi - b.centre_midi) <= SEMITONES)  # fmt: skip
