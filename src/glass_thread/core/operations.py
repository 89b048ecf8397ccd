"""All edit operations by name, as they arrive from outside."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from . import gesture_edits, note_edits
from .edits import Change, Document, move, put_back, set_values, tune, tune_pass
from .errors import ParameterError
from .scales import Key
from .types import Analysis
from .units import pitch_label

# name: (rule, whether it needs what was found in the sound, label in the list of steps)
OPERATIONS: dict[str, tuple[Callable[..., Change], bool, str]] = {
    "set": (set_values, False, "Set"),
    "nudge": (gesture_edits.nudge, False, "Change"),
    "tune": (tune, False, "Tune"),
    "move": (move, False, "Move"),
    "straighten": (gesture_edits.straighten, True, "Straighten"),
    "soften_joins": (gesture_edits.soften_joins, False, "Soften the joins"),
    "draw": (gesture_edits.draw, False, "Hand curve"),
    "rub_out": (gesture_edits.rub_out, False, "Rub out"),
    "copy_gestures": (gesture_edits.copy_gestures, False, "Copy gestures"),
    "put_back": (put_back, False, "Put back as sung"),
    "tune_pass": (tune_pass, False, "Tune pass"),
    "split": (note_edits.split, True, "Split"),
    "join": (note_edits.join, True, "Join"),
    "move_edge": (note_edits.move_edge, True, "Edge"),
    "make_note": (note_edits.make_note, True, "Make a note"),
    "make_air": (note_edits.make_air, False, "No note"),
    "move_octave": (note_edits.move_octave, True, "Octave"),
    "centre_here": (note_edits.centre_here, True, "Centre here"),
    "read_again": (note_edits.read_again, True, "Read again"),
    "recut": (note_edits.recut, True, "Cut again"),
}
VALUE_NAMES = {
    "target": "Target", "target_midi": "Target", "pull": "Pull", "drift": "Drift", "vibrato": "Vibrato",
    "lean_in": "Lean in", "lean_out": "Lean out", "glide_ms": "Glide", "glide_bend": "Bend", "level_db": "Level",
    "formant_shift": "Formant", "rounding": "Rounding", "added_extent": "Added vibrato", "added_rate_hz": "Added rate",
    "added_onset_ms": "Added onset", "added_level": "Level with the vibrato",
}  # fmt: skip


def apply_operation(
    document: Document, key: Key, operation: Mapping[str, Any], analysis: Analysis | None = None
) -> Change:
    """Run one operation given as plain data: ``{"type": "tune", "note_ids": [...], ...}``.

    Raises
    ------
    ParameterError, NotFoundError
        With a sentence that says what is wrong; the document is never changed.
    """
    arguments = dict(operation)
    name = arguments.pop("type", None)
    if name not in OPERATIONS:
        raise ParameterError(f"“{name}” is not an edit we know; choose one of: {', '.join(OPERATIONS)}.")
    rule, needs_sound, _label = OPERATIONS[name]
    if needs_sound and analysis is None:
        raise ParameterError(f"The edit “{name}” needs the recording it belongs to.")
    try:
        return rule(document, key, analysis, **arguments) if needs_sound else rule(document, key, **arguments)
    except (TypeError, ValueError) as error:
        raise ParameterError(f"The edit “{name}” has a wrong or missing value: {error}.") from error


def describe(document: Document, operation: Mapping[str, Any], change: Change) -> str:
    """One line for the list of steps, for example ``Target F♯4 · 1 note``."""
    del document
    count = len(change)
    notes = "1 note" if count == 1 else f"{count} notes"
    name = str(operation.get("type"))
    what = OPERATIONS[name][2]
    if name in ("set", "nudge"):
        what = ", ".join(VALUE_NAMES.get(value, value) for value in operation.get("values", {}))
    if count == 1 and name in ("tune", "move"):
        after = next(iter(change.values()))[1]
        if after is not None and after.gesture.target_midi is not None:
            return f"{what} to {pitch_label(after.gesture.target_midi)}"
    if name == "put_back" and operation.get("aspect", "all") != "all":
        what = f"{what}: {str(operation['aspect']).replace('_', ' ')}"
    return f"{what} · {notes}"
