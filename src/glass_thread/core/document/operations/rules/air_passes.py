"""Passes over many air events: harsh sibilants softened, breaths lowered or removed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from ....signal.types import Analysis
from ....signal.validation import in_range
from ....song.keys import KeyMap
from ...content import Content, ContentChange, EditedAir, air_change, air_owners, selected_air
from ...harsh import HARSH_OVER_DB, stand_out, typical_stand_out
from .air_edits import HIGHEST_DB, LOWEST_DB

SOFTENED_TO_DB = 3.0  # over the typical sibilant of the track


def _reached(content: Content, note_ids: Sequence[str], air_ids: Sequence[str], kind: str) -> list[EditedAir]:
    """Events of a kind: those named, those of the named notes, or all."""
    if air_ids:
        return [edited for edited in selected_air(content, air_ids) if edited.event.kind == kind]
    owners = air_owners(content) if note_ids else {}
    wanted = set(note_ids)
    return [e for i, e in content.air.items() if e.event.kind == kind and (not wanted or owners[i] in wanted)]


def soften_harsh(
    content: Content,
    keys: KeyMap,
    analysis: Analysis,
    *,
    note_ids: Sequence[str] = (),
    air_ids: Sequence[str] = (),
    over_db: float = HARSH_OVER_DB,
    to_db: float = SOFTENED_TO_DB,
) -> ContentChange:
    """Bring sibilants that lie more than `over_db` over the track's typical one to `to_db` over it.

    Acts on the sibilants named, on those of the named notes, or on all of the track.
    """
    del keys, analysis
    in_range(to_db, -12.0, over_db, "What they are brought to (dB)")
    typical, found = typical_stand_out(content), stand_out(content)
    chosen = [e for e in _reached(content, note_ids, air_ids, "sibilant")
              if found.get(e.event.id, -np.inf) - typical > over_db]  # fmt: skip
    softened = []
    for edited in chosen:
        level = edited.level_db - (found[edited.event.id] - typical - to_db)
        softened.append(replace(edited, level_db=round(float(np.clip(level, LOWEST_DB, HIGHEST_DB)), 2)))
    return air_change(chosen, softened)


def set_breaths(
    content: Content,
    keys: KeyMap,
    analysis: Analysis,
    *,
    note_ids: Sequence[str] = (),
    air_ids: Sequence[str] = (),
    values: Mapping[str, float | bool],
) -> ContentChange:
    """Set the level of breaths, or remove them, all alike."""
    del keys, analysis
    level, muted = values.get("level_db", 0.0), bool(values.get("muted", False))
    chosen = _reached(content, note_ids, air_ids, "breath")
    return air_change(chosen, [EditedAir(edited.event, level, muted) for edited in chosen])
