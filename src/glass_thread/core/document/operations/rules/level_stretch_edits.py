"""Edit operations on level stretches."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from ....signal.errors import ParameterError
from ....signal.types import Analysis
from ....song.keys import KeyMap
from ...content import Content, ContentChange, Edited, fresh_ids, picked
from ...items.level_stretches import SHORTEST_STRETCH_S, LevelStretch, outside


def add_stretch(
    content: Content, keys: KeyMap, analysis: Analysis, *, start_s: float, end_s: float, level_db: float | None = None,
    fade_ms: float = 20.0,
) -> ContentChange:  # fmt: skip
    """Change the level of a stretch, or silence it; it takes the place of what other stretches reach into it."""
    del keys
    last = min(end_s, analysis.duration_s)
    if last - start_s < SHORTEST_STRETCH_S:
        raise ParameterError("A level stretch needs at least 20 ms of the recording.")
    names = fresh_ids(content, "l", len(content.level_stretches) + 1)
    change = _without(content, start_s, last, names[1:])
    made = LevelStretch(names[0], start_s, last, level_db or 0.0, level_db is None, fade_ms)
    return {**change, made.id: (None, made)}


def _without(
    content: Content, start_s: float, end_s: float, names: Sequence[str], *, but: str = ""
) -> dict[str, tuple[Edited | None, Edited | None]]:
    others = {key: one for key, one in content.level_stretches.items() if key != but}
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    for old, parts in outside(others, start_s, end_s, names).items():
        kept = [part for part in parts if part.id == old]
        change[old] = (others[old], kept[0] if kept else None)
        change |= {part.id: (None, part) for part in parts if part.id != old}
    return change


def set_stretch(
    content: Content, keys: KeyMap, analysis: Analysis, *, stretch_ids: Sequence[str], values: Mapping[str, Any]
) -> ContentChange:
    """Change level, silence, fades or ends of level stretches."""
    del keys
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    for one in _stretches(content, stretch_ids):
        changed: dict[str, Any] = {**({"muted": False} if "level_db" in values else {}), **values}
        now = replace(one, **changed)
        now = replace(now, end_s=min(now.end_s, analysis.duration_s))
        if now.end_s - now.start_s < SHORTEST_STRETCH_S:
            raise ParameterError("A level stretch is at least 20 ms long; take it away instead.")
        if now.span_s != one.span_s:
            names = fresh_ids(content, "l", len(content.level_stretches) + 1)
            change |= _without(content, *now.span_s, names, but=one.id)
        if now != one:
            change[one.id] = (one, now)
    return change


def remove_stretch(
    content: Content, keys: KeyMap, analysis: Analysis, *, stretch_ids: Sequence[str] = ()
) -> ContentChange:  # fmt: skip
    """Put the level of stretches back as recorded."""
    del keys, analysis
    return {one.id: (one, None) for one in _stretches(content, stretch_ids)}


def _stretches(content: Content, stretch_ids: Sequence[str]) -> list[LevelStretch]:
    return picked(content.level_stretches, stretch_ids, what="level stretch", where="on this track")
