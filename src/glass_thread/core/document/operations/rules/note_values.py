"""Edit operations on what is asked of notes: values, targets, tune passes, putting back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from ....signal.errors import ParameterError
from ....signal.types import Analysis, Rounding
from ....signal.units import HIGHEST_MIDI, LOWEST_MIDI
from ....signal.validation import in_range
from ....song.keys import KeyMap
from ...content import Content
from ...gestures import AS_SUNG, ASPECTS, with_values
from ...notes import EditedNote, NoteChange, Notes, difference, neighbours_of_all, selected, with_gesture
from .gesture_edits import refuse_lone_glides
from .time_edits import shifted, with_neighbours

ON_CENTRE = ("target_midi", "pull", "within_cents", "rounding")
_NOT_ON_PITCH = {*ASPECTS["level"], *ASPECTS["formant"], *ASPECTS["timing"]}
ON_PITCH = tuple(name for name in ASPECTS["all"] if name not in _NOT_ON_PITCH)
AS_ASKED: dict[str, float] = {"pull": 1.0, "within_cents": 0.0, "drift": 1.0, "vibrato": 1.0, "movement": 1.0}


def set_values(notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], values: Mapping[str, Any]) -> NoteChange:
    """Set gesture values absolutely; ``target`` may be text like ``F#4 +8`` and implies full pull if there is none."""
    chosen = selected(notes, note_ids)
    wanted = dict(values)
    if "target" in wanted:
        wanted["target_midi"] = keys.of(chosen[0].note).typed(wanted.pop("target"))
    if not wanted:
        raise ParameterError("The edit names no value to set.")
    after = []
    for edited in chosen:
        own = dict(wanted)
        if own.get("added_extent") and not edited.gesture.added_seed:
            own["added_seed"] = 1 + round(edited.note.start_s * 1000)
        if "target_midi" in own and "pull" not in own and edited.gesture.pull == 0.0:
            own["pull"] = 1.0
        after.append(with_gesture(notes, edited, keys, with_values(edited.gesture, **own)))
    refuse_lone_glides(notes, chosen, wanted)
    return difference(chosen, after)


def tune(
    notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], rounding: Rounding | None = None, pull: float = 1.0
) -> NoteChange:
    """Put notes on the nearest pitch their rounding allows, as far as `pull` says."""
    chosen = selected(notes, note_ids)
    around = neighbours_of_all(notes)
    after = []
    for edited in chosen:
        asked = rounding or edited.gesture.rounding
        way: Rounding = "scale" if asked == "free" else asked
        target = keys.of(edited.note).nearest(edited.note.centre_midi, way, neighbours=around[edited.note.id])
        after.append(replace(edited, gesture=replace(edited.gesture, target_midi=target, pull=pull, rounding=way)))
    return difference(chosen, after)


def move(notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], steps: int = 0, cents: float = 0.0) -> NoteChange:
    """Move targets by steps of each note's rounding, or by cents; what was as sung starts from where it was heard."""
    chosen = selected(notes, note_ids)
    after = []
    for edited in chosen:
        gesture = edited.gesture
        pulled = gesture.pull > 0.0 and gesture.target_midi is not None
        start = float(gesture.target_midi) if pulled and gesture.target_midi is not None else edited.note.centre_midi
        target = start + cents / 100.0
        if steps:
            target = keys.of(edited.note).stepped(target, steps, gesture.rounding)
        in_range(target, LOWEST_MIDI, HIGHEST_MIDI, "The target")
        after.append(replace(edited, gesture=replace(gesture, target_midi=target, pull=gesture.pull or 1.0)))
    return difference(chosen, after)


def set_candidates(notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], targets: Sequence[str]) -> NoteChange:
    """Name two targets to choose between by ear, as text; the first one sounds."""
    chosen = selected(notes, note_ids)
    after = []
    for edited in chosen:
        pitches = tuple(keys.of(edited.note).typed(text) for text in targets)
        if len(set(pitches)) != 2:
            raise ParameterError("Name two different pitches to choose between.")
        asked = replace(edited.gesture, candidates=pitches, target_midi=pitches[0], pull=edited.gesture.pull or 1.0)
        after.append(replace(edited, gesture=asked))
    return difference(chosen, after)


def swap_candidates(notes: Notes, keys: KeyMap, *, note_ids: Sequence[str]) -> NoteChange:
    """Let the other of the two candidates sound."""
    del keys
    chosen = [edited for edited in selected(notes, note_ids) if edited.gesture.candidates]
    if not chosen:
        raise ParameterError("No candidates are named for this note yet; name two pitches first.")
    after = []
    for edited in chosen:
        first, second = edited.gesture.candidates
        other = second if edited.gesture.target_midi == first else first
        asked = replace(edited.gesture, target_midi=other, pull=edited.gesture.pull or 1.0)
        after.append(replace(edited, gesture=asked))
    return difference(chosen, after)


def put_back(
    content: Content, keys: KeyMap, analysis: Analysis, *, note_ids: Sequence[str], aspect: str = "all"
) -> NoteChange:  # fmt: skip
    """Put one aspect, or everything, back as sung."""
    del keys
    chosen = selected(content.notes, note_ids)
    values = {name: getattr(AS_SUNG, name) for name in ASPECTS[aspect]}
    after = [replace(e, gesture=with_values(e.gesture, **values)) for e in chosen]
    if aspect == "length":
        after = [shifted(e, e.gesture.start_shift_ms, e.gesture.start_shift_ms) for e in chosen]
    moved = [now for was, now in zip(chosen, after, strict=True) if was.gesture.times_ms != now.gesture.times_ms]
    change = difference(chosen, after)
    return change | with_neighbours(content, analysis, moved) if moved else change


def tune_pass(
    notes: Notes,
    keys: KeyMap,
    *,
    note_ids: Sequence[str],
    rounding: Rounding = "scale",
    beyond_cents: float = 0.0,
    keep_edited: bool = True,
    spoken: bool = False,
    **shares: float,
) -> NoteChange:
    """Correct many notes at once.

    What a hand set stays, value by value, unless `keep_edited` is off; what another pass set is replaced.  Ways in and
    out stay where nothing is asked of them.  Notes nearer to their target than `beyond_cents` are left, as is what is
    spoken, unless asked, or left as sung.
    """
    chosen = selected(notes, note_ids)
    around = neighbours_of_all(notes)
    after = []
    for edited in chosen:
        target = keys.of(edited.note).nearest(edited.note.centre_midi, rounding, neighbours=around[edited.note.id])
        far = abs(target - edited.note.centre_midi) * 100.0 >= beyond_cents
        if edited.leave_as_sung or (edited.note.spoken and not spoken) or not far:
            after.append(edited)
            continue
        ways = {name for name in ("scoop", "fall") if shares.get(name, 1.0) == 1.0 and name not in edited.by_pass}
        asked = {name: share for name, share in shares.items() if name not in ways}
        wanted = {**AS_ASKED, **asked, "target_midi": target, "rounding": rounding}
        after.append(passed(edited, wanted, keep_edited=keep_edited))
    return difference(chosen, after)


def passed(edited: EditedNote, wanted: Mapping[str, Any], *, keep_edited: bool) -> EditedNote:
    """A note after a pass that asks for some values, with what a hand set of them kept."""
    kept: set[str] = set()
    if keep_edited:
        own = {name for name in wanted if getattr(edited.gesture, name) != getattr(AS_SUNG, name)}
        kept = own - set(edited.by_pass) - {"rounding"}
        kept |= set(ON_CENTRE) if kept & set(ON_CENTRE) else set()
    values = {name: value for name, value in wanted.items() if name not in kept}
    names = tuple(name for name in wanted if name in values and values[name] != getattr(AS_SUNG, name))
    return replace(edited, gesture=with_values(edited.gesture, **values), by_pass=names)


def leave_as_sung(notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], leave: bool = True) -> NoteChange:
    """Put the pitch of notes back as sung and have passes leave them so, or let passes act on them again."""
    del keys
    chosen = selected(notes, note_ids)
    marked = [replace(edited, leave_as_sung=leave) for edited in chosen]
    if leave:
        values = {name: getattr(AS_SUNG, name) for name in ON_PITCH}
        marked = [replace(edited, gesture=replace(edited.gesture, **values), by_pass=()) for edited in marked]
    return difference(chosen, marked)
