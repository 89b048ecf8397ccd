"""Edit operations on air events: level, kind, edges, and which there are."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any, get_args

import numpy as np

from ....analysis.air import BREATH_MIN_S, describe_air
from ....signal.errors import ParameterError
from ....signal.signal_tools import runs
from ....signal.types import HOP_S, AirKind, Analysis
from ....signal.validation import in_range
from ....song.keys import KeyMap
from ...content import (
    Content,
    ContentChange,
    Edited,
    EditedAir,
    air_change,
    event_frames,
    fresh_id,
    selected_air,
)
from ...notes import selected

LOWEST_DB, HIGHEST_DB = -60.0, 12.0
SHORTEST_S = 0.015
KINDS: tuple[str, ...] = get_args(AirKind)
_HISS_DB = 6.0  # a made event is taken for a sibilant when this little or less lies below 5 kHz


def set_air(
    content: Content, keys: KeyMap, analysis: Analysis, *, air_ids: Sequence[str], values: Mapping[str, Any]
) -> ContentChange:
    """Set level (dB re as sung), silence or kind."""
    del keys, analysis
    chosen = selected_air(content, air_ids)
    level, muted, kind = (values.get(name) for name in ("level_db", "muted", "kind"))
    if not values:
        raise ParameterError("Of air, the level, silence and the kind can be set.")
    after = []
    for edited in chosen:
        event = edited.event if kind is None else replace(edited.event, kind=kind)
        after.append(EditedAir(event, edited.level_db if level is None else level,
                               edited.muted if muted is None else muted))  # fmt: skip
    return air_change(chosen, after)


def nudge_air(
    content: Content, keys: KeyMap, analysis: Analysis, *, air_ids: Sequence[str], by_db: float
) -> ContentChange:
    """Change levels by an amount; each event keeps its own start, and is heard again when it was silenced."""
    del keys, analysis
    chosen = selected_air(content, air_ids)
    moved = [
        replace(e, level_db=float(np.clip(e.level_db + by_db, LOWEST_DB, HIGHEST_DB)), muted=False) for e in chosen
    ]
    return air_change(chosen, moved)


def put_air_back(content: Content, keys: KeyMap, analysis: Analysis, *, air_ids: Sequence[str]) -> ContentChange:
    """Put levels back as sung."""
    del keys, analysis
    chosen = selected_air(content, air_ids)
    return air_change(chosen, [EditedAir(edited.event) for edited in chosen])


def remeasured(edited: EditedAir, analysis: Analysis, a: int, b: int, event_id: str | None = None) -> EditedAir:
    """The event over frames [a, b), with its levels measured there."""
    event = edited.event
    made = describe_air(
        event_id or event.id, event.kind, a, b, analysis.level_db, analysis.high_db, voiced=event.voiced
    )
    return replace(edited, event=made)


def move_air_edge(
    content: Content, keys: KeyMap, analysis: Analysis, *, air_id: str, side: str, at_s: float
) -> ContentChange:
    """Move the start or end of an event; neighbours that it reaches give way."""
    del keys
    edited = selected_air(content, [air_id])[0]
    n = len(analysis.contour.midi)
    frame = round(in_range(at_s, 0.0, n * HOP_S, "The edge (s)") / HOP_S)
    a, b = event_frames(edited.event, n)
    a, b = (frame, b) if side == "start" else (a, frame)
    if (b - a) * HOP_S < SHORTEST_S - 1e-9:
        raise ParameterError("An air event must be at least 15 ms long.")
    change: dict[str, tuple[Edited | None, Edited | None]] = {air_id: (edited, remeasured(edited, analysis, a, b))}
    for other in content.air.values():
        c, d = event_frames(other.event, n)
        if other.event.id == air_id or d <= a or c >= b:
            continue
        c, d = (c, min(d, a)) if c < a else (max(c, b), d)
        gone = (d - c) * HOP_S < SHORTEST_S - 1e-9
        change[other.event.id] = (other, None if gone else remeasured(other, analysis, c, d))
    return change


def split_air(content: Content, keys: KeyMap, analysis: Analysis, *, air_id: str, at_s: float) -> ContentChange:
    """Cut an event in two; both keep their level."""
    del keys
    edited = selected_air(content, [air_id])[0]
    a, b = event_frames(edited.event, len(analysis.contour.midi))
    frame = round(in_range(at_s, 0.0, b * HOP_S + 1e6, "The place (s)") / HOP_S)
    if min(frame - a, b - frame) * HOP_S < SHORTEST_S - 1e-9:
        raise ParameterError("Split inside the event, at least 15 ms from its ends.")
    other = fresh_id(content, "a")
    return {
        air_id: (edited, remeasured(edited, analysis, a, frame)),
        other: (None, remeasured(edited, analysis, frame, b, other)),
    }


def add_air(
    content: Content, keys: KeyMap, analysis: Analysis, *, start_s: float, end_s: float, kind: str | None = None
) -> ContentChange:
    """Say that there is air in a stretch of time; without a kind, what it sounds most like."""
    del keys
    n = len(analysis.contour.midi)
    a, b = (round(in_range(t, 0.0, n * HOP_S, "The time (s)") / HOP_S) for t in (start_s, end_s))
    free = _free_part(content, a, b, n)
    if (free[1] - free[0]) * HOP_S < SHORTEST_S - 1e-9:
        raise ParameterError("There is no room for an air event of 15 ms in this stretch.")
    made = _made(content, analysis, *free, kind)
    return {made.event.id: (None, made)}


def remove_air(content: Content, keys: KeyMap, analysis: Analysis, *, air_ids: Sequence[str]) -> ContentChange:
    """Say that these are no air events; their sound comes back as recorded."""
    del keys, analysis
    return {edited.event.id: (edited, None) for edited in selected_air(content, air_ids)}


def make_air(content: Content, keys: KeyMap, analysis: Analysis, *, note_ids: Sequence[str]) -> ContentChange:
    """Say that these are no notes but air: nothing of them is pitch-shifted any more."""
    del keys
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    left = content
    for edited in selected(content.notes, note_ids):
        n = len(analysis.contour.midi)
        change[edited.note.id] = (edited, None)
        a, b = _free_part(left, round(edited.note.start_s / HOP_S), round(edited.note.end_s / HOP_S), n)
        if (b - a) * HOP_S >= SHORTEST_S - 1e-9:
            made = _made(left, analysis, a, b, None)
            change[made.event.id] = (None, made)
            left = replace(left, air={**left.air, made.event.id: made})
    return change


def _free_part(content: Content, a: int, b: int, n_frames: int) -> tuple[int, int]:
    """The longest part of frames [a, b) in which there is no air event yet."""
    free = np.zeros(n_frames, dtype=bool)
    free[a:b] = True
    for edited in content.air.values():
        c, d = event_frames(edited.event, n_frames)
        free[c:d] = False
    return max(runs(free), key=lambda run: run[1] - run[0], default=(a, a))


def _made(content: Content, analysis: Analysis, a: int, b: int, kind: str | None) -> EditedAir:
    event_id = fresh_id(content, "a")
    found = describe_air(event_id, "consonant", a, b, analysis.level_db, analysis.high_db)
    if kind is None:
        kind = "breath" if (b - a) * HOP_S >= BREATH_MIN_S else "consonant"
        if found.high_db > found.level_db - _HISS_DB:
            kind = "sibilant"
    return EditedAir(replace(found, kind=kind))  # type: ignore[arg-type]
