"""Passes over many air events: harsh sibilants softened, breaths lowered or removed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from ...signal.errors import ParameterError
from ...signal.types import Analysis, Floats
from ...signal.validation import in_range
from ..content import Content, ContentChange, EditedAir, air_change, air_owners, selected_air
from ..edits import EditedNote
from ..scales import Key
from .air_edits import HIGHEST_DB, LOWEST_DB

AROUND_S = 1.5
HARSH_OVER_DB, SOFTENED_TO_DB = 6.0, 3.0  # over the typical sibilant of the track
# What may count as typical, and what does with too few to tell (common practice, no source).
TYPICAL_RANGE_DB, FEWEST_TYPICAL, USUAL_STAND_OUT_DB = (-18.0, -6.0), 3, -12.0


def vowel_levels(notes: Sequence[EditedNote], at_s: Floats) -> Floats:
    """Level in dBFS of the notes within 1.5 s of each time, weighted by length; of the nearest when none is so near.

    `at_s` has shape (n,), in seconds; there must be a note.
    """
    start, end = (np.array([getattr(e.note, side) for e in notes]) for side in ("start_s", "end_s"))
    power = 10.0 ** (np.array([e.note.level_db + e.gesture.level_db for e in notes]) / 10.0)
    distance = np.maximum(np.maximum(start - at_s[:, np.newaxis], at_s[:, np.newaxis] - end), 0.0)
    near = distance <= np.maximum(distance.min(axis=1, keepdims=True), AROUND_S)
    weight = near * (end - start)
    return 10.0 * np.log10((weight @ power) / weight.sum(axis=1))


def stand_out(content: Content) -> dict[str, float]:
    """How far each sounding sibilant's level above 5 kHz lies over the vowels around it, in dB, as it will sound."""
    heard = {i: e for i, e in content.air.items() if e.event.kind == "sibilant" and not e.muted}
    if not content.notes or not heard:
        return {}
    middles = np.array([(e.event.start_s + e.event.end_s) / 2 for e in heard.values()])
    around = vowel_levels(list(content.notes.values()), middles)
    high = np.array([e.event.high_db + e.level_db for e in heard.values()])
    return dict(zip(heard, (high - around).tolist(), strict=True))


def typical_stand_out(content: Content) -> float:
    """What is usual for the track's sibilants as sung, in dB over the vowels around them: their lower quartile.

    Harsh ones may be the majority, so the quartile is taken, and held within what is sung at all.
    """
    as_sung = replace(content, air={i: EditedAir(e.event) for i, e in content.air.items()})
    found = list(stand_out(as_sung).values())
    if len(found) < FEWEST_TYPICAL:
        return USUAL_STAND_OUT_DB
    return float(np.clip(np.percentile(found, 25), *TYPICAL_RANGE_DB))


def harsh(content: Content) -> dict[str, float]:
    """Sibilants that stand out, with the dB by which they lie over the typical one."""
    typical = typical_stand_out(content)
    return {i: over - typical for i, over in stand_out(content).items() if over - typical > HARSH_OVER_DB}


def _reached(content: Content, note_ids: Sequence[str], air_ids: Sequence[str], kind: str) -> list[EditedAir]:
    """Events of a kind: those named, those of the named notes, or all."""
    if air_ids:
        return [edited for edited in selected_air(content, air_ids) if edited.event.kind == kind]
    owners = air_owners(content) if note_ids else {}
    wanted = set(note_ids)
    return [e for i, e in content.air.items() if e.event.kind == kind and (not wanted or owners[i] in wanted)]


def soften_harsh(
    content: Content,
    key: Key,
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
    del key, analysis
    in_range(over_db, 0.0, 24.0, "The limit (dB)")
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
    key: Key,
    analysis: Analysis,
    *,
    note_ids: Sequence[str] = (),
    air_ids: Sequence[str] = (),
    values: Mapping[str, float | bool],
) -> ContentChange:
    """Set the level of breaths, or remove them, all alike."""
    del key, analysis
    level, muted = values.get("level_db", 0.0), values.get("muted", False)
    if set(values) - {"level_db", "muted"} or not isinstance(muted, bool):
        raise ParameterError("Breaths are lowered by a level or removed.")
    level = in_range(level, LOWEST_DB, HIGHEST_DB, "Level of breaths (dB)")
    chosen = _reached(content, note_ids, air_ids, "breath")
    return air_change(chosen, [EditedAir(edited.event, level, muted) for edited in chosen])
