"""What was changed of a note or an air event, in words for the tuning sheet."""

from __future__ import annotations

from ...core.document.content import EditedAir
from ...core.document.gestures import USUAL_GLIDE_MS, Gesture
from ...core.document.notes import EditedNote

_LEAST_GLAZE = 0.005  # semitones


def signed(value: float, unit: str, digits: int = 0) -> str:
    """A number with its sign, a real minus, and its unit."""
    return f"{value:+.{digits}f} {unit}".replace("-", "−")


def note_changes(edited: EditedNote, glazed: float = 0.0) -> list[str]:
    """What is asked of a note, each in a few words; `glazed` is what glazes add, in semitones."""
    asked, found = edited.gesture, list[str]()
    if asked.pull:
        within = f" to within {asked.within_cents:.0f} ct" if asked.within_cents else ""
        found.append(f"pull {100 * asked.pull:.0f} %{within}")
    for name in ("movement", "drift", "vibrato", "scoop", "fall"):
        if getattr(asked, name) != 1.0:
            found.append(f"{name} {100 * getattr(asked, name):.0f} %")
    for name in ("lean_in", "lean_out"):
        if getattr(asked, name):
            found.append(f"{name.replace('_', ' ')} {signed(getattr(asked, name), 'ct')}")
    found += _added(asked)
    if asked.glide_ms is not None and (asked.glides or asked.glide_ms != USUAL_GLIDE_MS):
        found.append(f"glide {asked.glide_ms:.0f} ms")
    if any(not stroke.as_sung for stroke in asked.hand):
        found.append("hand curve")
    if any(stroke.as_sung for stroke in asked.hand):
        found.append("partly as sung")
    if asked.level_db:
        found.append(f"level {signed(asked.level_db, 'dB', 1)}")
    if asked.formant_shift:
        found.append(f"formant {signed(asked.formant_shift, 'st', 1)}")
    found += _times(asked)
    if abs(glazed) >= _LEAST_GLAZE:
        found.append(f"glaze {signed(100 * glazed, 'ct')}")
    return found


def _added(asked: Gesture) -> list[str]:
    return [f"added vibrato ±{asked.added_extent:.0f} ct"] if asked.added_extent else []


def _times(asked: Gesture) -> list[str]:
    start, end = asked.times_ms
    longer = end - start
    found = [f"start {signed(start, 'ms')}"] if start else []
    return [*found, f"length {signed(longer, 'ms')}"] if abs(longer) > 0.5 else found


def air_change(edited: EditedAir) -> str:
    """What is asked of an air event."""
    return "silent" if edited.muted else f"level {signed(edited.level_db, 'dB', 1)}"
