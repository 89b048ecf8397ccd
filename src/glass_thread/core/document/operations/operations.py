"""All edit operations by name, as they arrive from outside."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from ...signal.errors import ParameterError
from ...signal.types import Analysis
from ...signal.units import pitch_label
from ..content import Content, ContentChange, EditedAir, Gap
from ..edits import EditedNote, move, put_back, set_values, tune, tune_pass
from ..scales import Key
from . import air_edits, air_passes, gesture_edits, level_passes, note_edits

# name: (rule, what it needs, label in the list of steps); rules take the notes, the notes and what was found in the
# sound, or the whole content and what was found
OPERATIONS: dict[str, tuple[Callable[..., ContentChange], str, str]] = {
    "set": (set_values, "notes", "Set"),
    "nudge": (gesture_edits.nudge, "notes", "Change"),
    "tune": (tune, "notes", "Tune"),
    "move": (move, "notes", "Move"),
    "straighten": (gesture_edits.straighten, "sound", "Straighten"),
    "soften_joins": (gesture_edits.soften_joins, "notes", "Soften the joins"),
    "draw": (gesture_edits.draw, "notes", "Hand curve"),
    "rub_out": (gesture_edits.rub_out, "notes", "Rub out"),
    "copy_gestures": (gesture_edits.copy_gestures, "notes", "Copy gestures"),
    "put_back": (put_back, "notes", "Put back as sung"),
    "tune_pass": (tune_pass, "notes", "Tune pass"),
    "split": (note_edits.split, "sound", "Split"),
    "join": (note_edits.join, "sound", "Join"),
    "move_edge": (note_edits.move_edge, "sound", "Edge"),
    "make_note": (note_edits.make_note, "sound", "Make a note"),
    "move_octave": (note_edits.move_octave, "sound", "Octave"),
    "centre_here": (note_edits.centre_here, "sound", "Centre here"),
    "read_again": (note_edits.read_again, "sound", "Read again"),
    "recut": (note_edits.recut, "sound", "Cut again"),
    "even_out": (level_passes.even_out, "notes", "Even out"),
    "make_air": (air_edits.make_air, "content", "Air, no note"),
    "set_air": (air_edits.set_air, "content", "Set air"),
    "nudge_air": (air_edits.nudge_air, "content", "Air level"),
    "put_air_back": (air_edits.put_air_back, "content", "Put air back"),
    "move_air_edge": (air_edits.move_air_edge, "content", "Edge of air"),
    "split_air": (air_edits.split_air, "content", "Split air"),
    "add_air": (air_edits.add_air, "content", "Add air"),
    "remove_air": (air_edits.remove_air, "content", "No air"),
    "soften_harsh": (air_passes.soften_harsh, "content", "Soften harsh sibilants"),
    "set_breaths": (air_passes.set_breaths, "content", "Breaths"),
    "clear_gaps": (level_passes.clear_gaps, "content", "Clear gaps"),
    "fill_gaps_again": (level_passes.fill_gaps_again, "content", "Put gaps back"),
}
VALUE_NAMES = {
    "target": "Target", "target_midi": "Target", "pull": "Pull", "drift": "Drift", "vibrato": "Vibrato",
    "lean_in": "Lean in", "lean_out": "Lean out", "glide_ms": "Glide", "glide_bend": "Bend", "level_db": "Level",
    "formant_shift": "Formant", "rounding": "Rounding", "added_extent": "Added vibrato", "added_rate_hz": "Added rate",
    "added_onset_ms": "Added onset", "added_level": "Level with the vibrato",
}  # fmt: skip


def apply_operation(
    content: Content, key: Key, operation: Mapping[str, Any], analysis: Analysis | None = None
) -> ContentChange:
    """Run one operation given as plain data: ``{"type": "tune", "note_ids": [...], ...}``.

    Raises
    ------
    ParameterError, NotFoundError
        With a sentence that says what is wrong; the content is never changed.
    """
    arguments = dict(operation)
    name = arguments.pop("type", None)
    if name not in OPERATIONS:
        raise ParameterError(f"“{name}” is not an edit we know; choose one of: {', '.join(OPERATIONS)}.")
    rule, needs, _label = OPERATIONS[name]
    if needs != "notes" and analysis is None:
        raise ParameterError(f"The edit “{name}” needs the recording it belongs to.")
    try:
        if needs == "content":
            return rule(content, key, analysis, **arguments)
        if needs == "sound":
            return rule(content.notes, key, analysis, **arguments)
        return rule(content.notes, key, **arguments)
    except (TypeError, ValueError) as error:
        raise ParameterError(f"The edit “{name}” has a wrong or missing value: {error}.") from error


def describe(operation: Mapping[str, Any], change: ContentChange) -> str:
    """One line for the list of steps, for example ``Target F♯4 · 1 note``."""
    name = str(operation.get("type"))
    what = OPERATIONS[name][2]
    if name in ("set", "nudge"):
        what = ", ".join(VALUE_NAMES.get(value, value) for value in operation.get("values", {}))
    first = next(iter(change.values()))[1]
    if len(change) == 1 and name in ("tune", "move") and isinstance(first, EditedNote) and first.gesture.target_midi:
        return f"{what} to {pitch_label(first.gesture.target_midi)}"
    if name == "put_back" and operation.get("aspect", "all") != "all":
        what = f"{what}: {str(operation['aspect']).replace('_', ' ')}"
    if name in ("set_air", "nudge_air") and isinstance(first, EditedAir):
        level = "silent" if first.muted else f"{first.level_db:+.1f} dB".replace("-", "−")
        what = f"{first.event.kind.capitalize()} {level}" if len(change) == 1 else what
    return f"{what} · {_counted(change)}"


def _counted(change: ContentChange) -> str:
    """What a change touches, in words."""
    kinds = {EditedNote: ["note", 0], EditedAir: ["air event", 0], Gap: ["gap", 0]}
    for before, after in change.values():
        kinds[type(after if after is not None else before)][1] += 1  # type: ignore[index,operator]
    return ", ".join(f"{n} {word}" if n == 1 else f"{n} {word}s" for word, n in kinds.values() if n)
