"""Edit operations: pure rules from a document and an operation to an invertible change.

A document is the notes of one track with what is asked of each.  A change
maps note ids to (before, after), where None means that the note is not there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any

from ..signal.errors import NotFoundError, ParameterError
from ..signal.types import Note
from ..signal.units import HIGHEST_MIDI, LOWEST_MIDI, parse_pitch
from ..signal.validation import in_range
from .gestures import AS_SUNG, Gesture, target_of
from .scales import Key, round_pitch, step_pitch


@dataclass(frozen=True)
class EditedNote:
    """A note and what is asked of it."""

    note: Note
    gesture: Gesture = AS_SUNG


Document = Mapping[str, EditedNote]
Change = dict[str, tuple[EditedNote | None, EditedNote | None]]

# name: (lowest, highest, name in messages)
RANGES: dict[str, tuple[float, float, str]] = {
    "target_midi": (LOWEST_MIDI, HIGHEST_MIDI, "The target"),
    "pull": (0.0, 1.0, "Pull"),
    "drift": (0.0, 2.0, "Drift"),
    "vibrato": (0.0, 3.0, "Vibrato"),
    "lean_in": (-600.0, 600.0, "Lean in (cents)"),
    "lean_out": (-600.0, 600.0, "Lean out (cents)"),
    "glide_ms": (0.0, 500.0, "Glide (ms)"),
    "glide_bend": (-1.0, 1.0, "Bend"),
    "level_db": (-24.0, 12.0, "Level (dB)"),
    "formant_shift": (-12.0, 12.0, "Formant (semitones)"),
    "added_extent": (0.0, 200.0, "Added vibrato (± cents)"),
    "added_rate_hz": (3.0, 9.0, "Added vibrato rate (Hz)"),
    "added_onset_ms": (0.0, 3000.0, "Added vibrato onset (ms)"),
    "added_level": (0.0, 6.0, "Level with the vibrato (dB)"),
}
ROUNDINGS = ("scale", "semitone", "free")
ASPECTS: dict[str, tuple[str, ...]] = {
    "centre": ("target_midi", "pull"),
    "drift": ("drift",),
    "lean": ("lean_in", "lean_out"),
    "vibrato": ("vibrato", "added_extent", "added_rate_hz", "added_onset_ms", "added_seed", "added_level"),
    "glide": ("glide_ms", "glide_bend"),
    "hand_curve": ("hand",),
    "formant": ("formant_shift",),
    "level": ("level_db",),
}
ASPECTS["all"] = tuple(field.name for field in fields(Gesture))


def selected(document: Document, note_ids: Sequence[str]) -> list[EditedNote]:
    """The named notes; unknown, doubled or no names are refused."""
    if not note_ids:
        raise ParameterError("Nothing is selected. Select at least one note first.")
    missing = [note_id for note_id in note_ids if note_id not in document]
    if missing:
        raise NotFoundError(f"There is no note “{missing[0]}” in this track.")
    if len(set(note_ids)) != len(note_ids):
        raise ParameterError("A note is named twice in one edit.")
    return [document[note_id] for note_id in note_ids]


def neighbours_of(document: Document, note: Note) -> list[float]:
    """Centres of the notes just before and after `note`, where there are any."""
    before = [e.note for e in document.values() if e.note.end_s <= note.start_s + 1e-6]
    after = [e.note for e in document.values() if e.note.start_s >= note.end_s - 1e-6]
    near = []
    if before:
        near.append(max(before, key=lambda n: n.end_s).centre_midi)
    if after:
        near.append(min(after, key=lambda n: n.start_s).centre_midi)
    return near


def current_target(document: Document, edited: EditedNote, key: Key) -> float:
    """The note's target in MIDI, by hand or by rounding."""
    return target_of(edited.note, edited.gesture, key, neighbours_of(document, edited.note))


def current_targets(document: Document, key: Key) -> dict[str, float]:
    """The targets of all notes by id, in MIDI; the same as one by one, in one go through them."""
    ordered = sorted(document.values(), key=lambda e: e.note.start_s)
    found = {}
    for i, edited in enumerate(ordered):
        near = [ordered[k].note.centre_midi for k in (i - 1, i + 1) if 0 <= k < len(ordered)]
        found[edited.note.id] = target_of(edited.note, edited.gesture, key, near)
    return {note_id: found[note_id] for note_id in document}


def with_values(document: Document, edited: EditedNote, key: Key, values: Mapping[str, Any]) -> EditedNote:
    """A note with gesture values set; a target comes with the pull that needs it."""
    gesture = replace(edited.gesture, **values)
    if gesture.pull > 0.0 and gesture.target_midi is None:  # a target in use must not move when the key is changed
        gesture = replace(gesture, target_midi=current_target(document, replace(edited, gesture=gesture), key))
    return replace(edited, gesture=gesture)


def difference(before: Sequence[EditedNote], after: Sequence[EditedNote]) -> Change:
    """The change between two states of the same notes, without those that stay."""
    return {b.note.id: (b, a) for b, a in zip(before, after, strict=True) if b != a}


def set_values(document: Document, key: Key, *, note_ids: Sequence[str], values: Mapping[str, Any]) -> Change:
    """Set gesture values absolutely; ``target`` may be text like ``F#4 +8`` and implies full pull if there is none."""
    chosen = selected(document, note_ids)
    checked: dict[str, Any] = {}
    for name, value in values.items():
        if name == "target":
            midi = parse_pitch(str(value), key.reference_hz)
            checked["target_midi"] = midi + (0.0 if str(value).lower().rstrip().endswith("hz") else key.offset)
        elif name == "rounding":
            if value not in ROUNDINGS:
                raise ParameterError("Rounding must be scale, semitone or free.")
            checked["rounding"] = value
        elif name in RANGES and isinstance(value, (int, float)) and not isinstance(value, bool):
            checked[name] = in_range(value, *RANGES[name][:2], RANGES[name][2])
        else:
            raise ParameterError(f"“{name}” cannot be set to {value!r}.")
    if not checked:
        raise ParameterError("The edit names no value to set.")
    after = []
    for edited in chosen:
        own = dict(checked)
        if own.get("added_extent") and not edited.gesture.added_seed:
            own["added_seed"] = 1 + round(edited.note.start_s * 1000)
        if "target_midi" in own and "pull" not in own and edited.gesture.pull == 0.0:
            own["pull"] = 1.0
        after.append(with_values(document, edited, key, own))
    return difference(chosen, after)


def tune(document: Document, key: Key, *, note_ids: Sequence[str], rounding: str | None = None) -> Change:
    """Put notes fully on the nearest pitch their rounding allows."""
    if rounding is not None and rounding not in ROUNDINGS:
        raise ParameterError("Rounding must be scale, semitone or free.")
    chosen = selected(document, note_ids)
    after = []
    for edited in chosen:
        way = rounding or edited.gesture.rounding
        way = "scale" if way == "free" else way
        target = round_pitch(edited.note.centre_midi, key, way, neighbours=neighbours_of(document, edited.note))
        after.append(replace(edited, gesture=replace(edited.gesture, target_midi=target, pull=1.0, rounding=way)))
    return difference(chosen, after)


def move(document: Document, key: Key, *, note_ids: Sequence[str], steps: int = 0, cents: float = 0.0) -> Change:
    """Move targets by steps of each note's rounding, or by cents; what was as sung starts from where it was heard."""
    chosen = selected(document, note_ids)
    steps = int(in_range(steps, -60, 60, "Steps"))
    cents = in_range(cents, -6000, 6000, "The move (cents)")
    after = []
    for edited in chosen:
        gesture = edited.gesture
        pulled = gesture.pull > 0.0 and gesture.target_midi is not None
        start = float(gesture.target_midi) if pulled and gesture.target_midi is not None else edited.note.centre_midi
        target = start + cents / 100.0
        if steps:
            target = step_pitch(target, steps, key, gesture.rounding)
        in_range(target, LOWEST_MIDI, HIGHEST_MIDI, "The target")
        after.append(replace(edited, gesture=replace(gesture, target_midi=target, pull=gesture.pull or 1.0)))
    return difference(chosen, after)


def put_back(document: Document, key: Key, *, note_ids: Sequence[str], aspect: str = "all") -> Change:
    """Put one aspect, or everything, back as sung."""
    del key
    if aspect not in ASPECTS:
        raise ParameterError(f"“{aspect}” is not an aspect; choose one of: {', '.join(ASPECTS)}.")
    chosen = selected(document, note_ids)
    values = {name: getattr(AS_SUNG, name) for name in ASPECTS[aspect]}
    return difference(chosen, [replace(e, gesture=replace(e.gesture, **values)) for e in chosen])


def tune_pass(
    document: Document,
    key: Key,
    *,
    note_ids: Sequence[str],
    pull: float = 1.0,
    drift: float = 1.0,
    vibrato: float = 1.0,
    rounding: str = "scale",
    beyond_cents: float = 0.0,
    keep_edited: bool = True,
) -> Change:
    """Correct many notes at once; notes nearer to their target than `beyond_cents` and edited ones can be left."""
    chosen = selected(document, note_ids)
    for name, value in (("pull", pull), ("drift", drift), ("vibrato", vibrato)):
        in_range(value, *RANGES[name][:2], RANGES[name][2])
    in_range(beyond_cents, 0, 1200, "The limit in cents")
    if rounding not in ("scale", "semitone"):
        raise ParameterError("A tune pass rounds to the scale or to semitones.")
    after = []
    for edited in chosen:
        around = neighbours_of(document, edited.note)
        target = round_pitch(edited.note.centre_midi, key, rounding, neighbours=around)
        far = abs(target - edited.note.centre_midi) * 100.0 >= beyond_cents
        if not far or (keep_edited and not edited.gesture.is_as_sung):
            after.append(edited)
            continue
        wanted = replace(edited.gesture, target_midi=target, pull=pull, drift=drift, vibrato=vibrato, rounding=rounding)
        after.append(replace(edited, gesture=wanted))
    return difference(chosen, after)


def apply_change(document: Document, change: Change, *, backwards: bool = False) -> dict[str, EditedNote]:
    """The document after (or, `backwards`, before) a change; a new mapping in time order."""
    result = dict(document)
    for note_id, (before, after) in change.items():
        state = before if backwards else after
        if state is None:
            result.pop(note_id, None)
        else:
            result[note_id] = state
    return dict(sorted(result.items(), key=lambda item: item[1].note.start_s))
