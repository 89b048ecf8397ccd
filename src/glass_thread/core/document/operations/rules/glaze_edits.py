"""Edit operations on glazes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from ....signal.errors import ParameterError
from ....signal.types import Analysis
from ....song.keys import KeyMap
from ...content import Content, ContentChange, Edited, fresh_ids, picked
from ...items.glazes import SHORTEST_RANGE_S, Glaze, without


def add_glaze(
    content: Content, keys: KeyMap, analysis: Analysis, *, values: Mapping[str, Any], start_s: float = 0.0,
    end_s: float | None = None,
) -> ContentChange:  # fmt: skip
    """Lay a glaze over a range, in the place of what glazes reach into it."""
    del keys
    last = analysis.duration_s if end_s is None else min(end_s, analysis.duration_s)
    if last - start_s < SHORTEST_RANGE_S:
        raise ParameterError("A glaze needs a range of the recording that is longer than 10 ms.")
    names = fresh_ids(content, "z", len(content.glazes) + 1)
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    for old, parts in without(content.glazes, start_s, last, names[1:]).items():
        kept = [part for part in parts if part.id == old]
        change[old] = (content.glazes[old], kept[0] if kept else None)
        change |= {part.id: (None, part) for part in parts if part.id != old}
    return {**change, names[0]: (None, Glaze(names[0], start_s, last, **values))}


def set_glaze(
    content: Content, keys: KeyMap, analysis: Analysis, *, values: Mapping[str, Any], glaze_ids: Sequence[str] = ()
) -> ContentChange:
    """Change settings of glazes."""
    del keys, analysis
    changed = {glaze.id: (glaze, replace(glaze, **values)) for glaze in _glazes(content, glaze_ids)}
    return {glaze_id: pair for glaze_id, pair in changed.items() if pair[0] != pair[1]}


def remove_glaze(content: Content, keys: KeyMap, analysis: Analysis, *, glaze_ids: Sequence[str] = ()) -> ContentChange:
    """Take glazes away."""
    del keys, analysis
    return {glaze.id: (glaze, None) for glaze in _glazes(content, glaze_ids)}


def _glazes(content: Content, glaze_ids: Sequence[str]) -> list[Glaze]:
    return picked(content.glazes, glaze_ids, what="glaze", where="on this track")
