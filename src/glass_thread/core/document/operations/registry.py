"""All edit operations by name, and their words in the list of steps."""

from __future__ import annotations

from collections import Counter

from ...signal.units import pitch_label
from ..content import ContentChange, EditedAir, Gap, Pin
from ..items.borrows import Borrow
from ..items.comps import Choice
from ..items.glazes import Glaze
from ..items.level_stretches import LevelStretch
from ..items.links import Link
from ..notes import EditedNote
from . import on_air, on_borrows, on_comps, on_cuts, on_derived, on_follow, on_glazes, on_levels, on_notes, on_time
from .operation import OPERATIONS, Operation, Scene, parse_operation

__all__ = [
    "OPERATIONS",
    "Operation",
    "Scene",
    "describe",
    "on_air",
    "on_borrows",
    "on_comps",
    "on_cuts",
    "on_derived",
    "on_follow",
    "on_glazes",
    "on_levels",
    "on_notes",
    "on_time",
    "parse_operation",
]

VALUE_NAMES = {
    "target": "Target", "target_midi": "Target", "pull": "Pull", "within_cents": "To within",
    "movement": "Movement", "scoop": "Scoop", "fall": "Fall", "drift": "Drift", "vibrato": "Vibrato",
    "lean_in": "Lean in", "lean_out": "Lean out", "glide_ms": "Glide", "glide_bend": "Bend", "level_db": "Level",
    "formant_shift": "Formant", "rounding": "Rounding", "added_extent": "Added vibrato", "added_rate_hz": "Added rate",
    "added_onset_ms": "Added onset", "added_level": "Level with the vibrato",
}  # fmt: skip


def describe(operation: Operation, change: ContentChange) -> str:
    """One line for the list of steps, for example ``Target F♯4 · 1 note``."""
    what = operation.label
    if isinstance(operation, (on_notes.SetValues, on_notes.Nudge)):
        what = ", ".join(VALUE_NAMES[value] for value in operation.values)
    first = next(iter(change.values()))[1]
    aimed = isinstance(operation, (on_notes.Tune, on_notes.Move)) and len(change) == 1
    if aimed and isinstance(first, EditedNote) and first.gesture.target_midi:
        return f"{what} to {pitch_label(first.gesture.target_midi)}"
    if isinstance(operation, on_notes.PutBack) and operation.aspect != "all":
        what = f"{what}: {operation.aspect.replace('_', ' ')}"
    if isinstance(operation, (on_air.SetAir, on_air.NudgeAir)) and isinstance(first, EditedAir):
        level = "silent" if first.muted else f"{first.level_db:+.1f} dB".replace("-", "−")
        what = f"{first.event.kind.capitalize()} {level}" if len(change) == 1 else what
    if isinstance(operation, (on_time.Slip, on_time.ShiftEdge)):
        what = f"{what} {operation.by_ms:+.0f} ms".replace("-", "−")
    if isinstance(operation, on_notes.SoftenJoins):
        return f"{what} · {'1 join' if len(change) == 1 else f'{len(change)} joins'}"
    return f"{what} · {counted(change)}"


_KINDS: dict[type, str] = {
    EditedNote: "note",
    EditedAir: "air event",
    Gap: "gap",
    Pin: "pin",
    Glaze: "glaze",
    Choice: "choice",
    Borrow: "borrow",
    Link: "link",
    LevelStretch: "level stretch",
}


def counted(change: ContentChange) -> str:
    """What a change touches, in words."""
    count = Counter(type(before if after is None else after) for before, after in change.values())
    words = ((word, count[kind]) for kind, word in _KINDS.items() if count[kind])
    return ", ".join(f"{n} {word}" if n == 1 else f"{n} {_several(word)}" for word, n in words)


def _several(word: str) -> str:
    return f"{word}es" if word.endswith("ch") else f"{word}s"
