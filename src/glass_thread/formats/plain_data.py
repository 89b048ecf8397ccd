"""Core records as plain data and back, for JSON and the database."""

from __future__ import annotations

from dataclasses import asdict, fields
from typing import Any

from ..core.document.content import KINDS, Content, ContentChange, Edited, EditedAir, Gap, Pin
from ..core.document.gestures import ASPECTS, USUAL_GLIDE_MS, Gesture, Stroke
from ..core.document.items.borrows import Borrow, Fade
from ..core.document.items.comps import Choice
from ..core.document.items.glazes import Glaze
from ..core.document.items.level_stretches import LevelStretch
from ..core.document.items.links import Link
from ..core.document.linked.three_way import base_of_gesture
from ..core.document.notes import EditedNote
from ..core.document.time.stretches import Stretch
from ..core.signal.types import AirEvent, Note, Reading, Vibrato
from ..core.song.keys import KeyMap
from ..core.song.temperaments import Steps
from ..core.song.tuning import Tuning

# Read by name: `asdict` copies value by value what does not change anyway, which a pass over an hour's notes waits for.
_OF_NOTES, _OF_GESTURES = ([one.name for one in fields(kind)] for kind in (Note, Gesture))


def note_to_data(note: Note) -> dict[str, Any]:
    """A note as plain data; what notes did not have in earlier releases is left out where it is as it was then."""
    data = {name: getattr(note, name) for name in _OF_NOTES}
    for name in ("vibrato", "reading"):
        data[name] = None if data[name] is None else asdict(data[name])
    return data if note.spoken else {name: value for name, value in data.items() if name != "spoken"}


def note_from_data(data: dict[str, Any]) -> Note:
    """Inverse of `note_to_data`."""
    vibrato, span = data.get("vibrato"), data.get("centre_span")
    reading = data.get("reading")
    again = Reading(reading["first"], tuple(reading["midi"])) if reading else None
    found = {
        "reading": again,
        "vibrato": Vibrato(**vibrato) if vibrato else None,
        "centre_span": tuple(span) if span else None,
    }
    return Note(**{**data, **found})


def edited_to_data(edited: Edited | None) -> dict[str, Any] | None:
    """A note with its gesture, an air event with its level, or whatever else is edited, as plain data."""
    if isinstance(edited, EditedNote):
        said = {"meant": list(edited.meant), "by_pass": list(edited.by_pass), "leave_as_sung": edited.leave_as_sung}
        said = {name: value for name, value in said.items() if value}
        return {"note": note_to_data(edited.note), "gesture": gesture_to_data(edited.gesture), **said}
    if isinstance(edited, EditedAir):
        return {"air": asdict(edited.event), "level_db": edited.level_db, "muted": edited.muted}
    if isinstance(edited, Pin):
        return {"pin": asdict(edited)}
    if isinstance(edited, Glaze):
        return {"glaze": asdict(edited)}
    if isinstance(edited, Choice):
        return {"choice": asdict(edited)}
    if isinstance(edited, Borrow):
        return {"borrow": asdict(edited)}
    if isinstance(edited, Link):
        return {"link": asdict(edited)}
    if isinstance(edited, LevelStretch):
        return {"level_stretch": asdict(edited)}
    return None if edited is None else {"gap": asdict(edited)}


def edited_from_data(data: dict[str, Any] | None) -> Edited | None:
    """Inverse of `edited_to_data`."""
    if data is None:
        return None
    if "air" in data:
        return EditedAir(AirEvent(**data["air"]), data["level_db"], data["muted"])
    if "gap" in data:
        return Gap(**data["gap"])
    if "pin" in data:
        return Pin(**data["pin"])
    if "glaze" in data:
        return Glaze(**{"edition": 1, **data["glaze"]})
    if "choice" in data:
        return Choice(**data["choice"])
    if "borrow" in data:
        return _borrow_from_data(data["borrow"])
    if "link" in data:
        return _link_from_data(data["link"])
    if "level_stretch" in data:
        return LevelStretch(**data["level_stretch"])
    meant, by_pass = (tuple(data.get(name, ())) for name in ("meant", "by_pass"))
    note, gesture = note_from_data(data["note"]), gesture_from_data(data["gesture"])
    return EditedNote(note, gesture, meant, by_pass, data.get("leave_as_sung", False))


def _borrow_from_data(data: dict[str, Any]) -> Borrow:
    fades = {side: Fade(**data[side]) for side in ("fade_in", "fade_out")}
    return Borrow(**{**data, **fades, "stretches": tuple(Stretch(**one) for one in data["stretches"])})


def _link_from_data(data: dict[str, Any]) -> Link:
    anchors = tuple((lead_s, follower_s) for lead_s, follower_s in data.get("anchors", ()))
    known = {name: value for name, value in data.items() if name != "notes"}
    given = {name: base_of_gesture(_given(values)) for name, values in data.get("notes", {}).items()}
    return Link(**{**known, "anchors": anchors, "base": {**given, **data.get("base", {})}})


def _given(values: dict[str, Any]) -> Gesture:
    """What a link of an earlier release gave a note, which it kept by value."""
    return Gesture(
        target_midi=values["target_midi"], pull=values["pull"], level_db=values["level_db"],
        hand=_strokes(values["hand"]), start_shift_ms=values["start_ms"], end_shift_ms=values["end_ms"],
    )  # fmt: skip


def _strokes(data: list[dict[str, Any]]) -> tuple[Stroke, ...]:
    return tuple(
        Stroke(tuple((t, p) for t, p in one["points"]), one["keep_fine"], one.get("as_sung", False)) for one in data
    )


def gesture_to_data(gesture: Gesture) -> dict[str, Any]:
    """A gesture as plain data; times, which earlier releases did not have, are left out where nothing is moved."""
    data = {name: getattr(gesture, name) for name in _OF_GESTURES}
    data["hand"] = tuple(asdict(one) for one in gesture.hand)
    later = () if gesture.moves_time else ASPECTS["timing"]
    return {name: value for name, value in data.items() if name not in later}


def gesture_from_data(data: dict[str, Any]) -> Gesture:
    """A gesture from plain data; values that an older version did not know are as sung."""
    listed = {"hand": _strokes(data.get("hand", [])), "candidates": tuple(data.get("candidates", ()))}
    gesture = Gesture(**{"edition": 1, **data, **listed})
    bends = gesture.bends_pitch or gesture.glide_ms != USUAL_GLIDE_MS or gesture.glide_bend
    return gesture if bends else gesture.renewed


def change_to_data(change: ContentChange) -> dict[str, Any]:
    """A change as plain data: id to [before, after]."""
    return {note_id: [edited_to_data(before), edited_to_data(after)] for note_id, (before, after) in change.items()}


def change_from_data(data: dict[str, Any]) -> ContentChange:
    """Inverse of `change_to_data`."""
    return {note_id: (edited_from_data(pair[0]), edited_from_data(pair[1])) for note_id, pair in data.items()}


def content_to_data(content: Content) -> dict[str, Any]:
    """Everything edited of a track as plain data: id to state."""
    return {key: edited_to_data(edited) for part in content.parts for key, edited in part.items()}


def content_from_data(data: dict[str, Any]) -> Content:
    """Inverse of `content_to_data`."""
    parts: dict[type, dict[str, Any]] = {kind: {} for kind in KINDS}
    for key, state in data.items():
        edited = edited_from_data(state)
        parts[type(edited)][key] = edited
    return Content(*parts.values())


def keys_to_data(keys: KeyMap) -> dict[str, Any]:
    """The keys of a song as JSON holds them."""
    return asdict(keys)


def keys_from_data(data: dict[str, Any]) -> KeyMap:
    """The same again."""
    tunings = []
    for one in data["tunings"]:
        steps = Steps(
            **{**one["steps"], "heights": tuple(one["steps"]["heights"]), "keys": tuple(one["steps"]["keys"])}
        )
        tunings.append(Tuning(**{**one, "classes": tuple(one["classes"]), "steps": steps}))
    return KeyMap(tuple(tunings), tuple(data["starts_s"]))
