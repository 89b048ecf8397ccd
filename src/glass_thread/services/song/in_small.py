"""A track in small, for the stack: what is sung when, and how loud it is, as it is heard."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.plan.level_plan import level_gain
from ...core.signal.types import HOP_S
from ..session.desk import Desk, Standing
from ..session.sounding import SoundingNote, parts_of, sounding_notes

OUTLINE_S = 0.05


@dataclass(frozen=True)
class InSmall:
    """Notes as (start, end, pitch) and the highest level of every `OUTLINE_S`, full scale 127; seconds of the track."""

    notes: list[tuple[float, float, float]]
    outline: list[int]


def in_small(desk: Desk, track_id: str, step_id: str | None) -> InSmall:
    """A track at a step in small; a backing as it was recorded."""
    track = desk.workspace.tracks.get(track_id)
    peak = np.abs(desk.outline(track).astype(np.int16)).max(axis=1).astype(float)
    if track.role == "backing":
        return InSmall([], _levels(np.arange(len(peak)) * HOP_S, peak))
    standing = desk.at(track_id, step_id)
    notes = [(note.start_s, note.end_s, note.verdict.tuned_midi)
             for note in sounding_notes(desk, standing) if _heard(note)]  # fmt: skip
    return InSmall(notes, _levels(*_placed(desk, standing, peak)))


def _heard(note: SoundingNote) -> bool:
    """Not in a gap, as the notes that another voice leaves out are."""
    middle = round(sum(note.edited.span_s) / 2.0 / HOP_S)
    return bool(level_gain(note.plan.level_db[middle : middle + 1]).any())


def _placed(desk: Desk, standing: Standing, peak: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where in the track each frame of the recording sounds that does, and how loud it is there."""
    times, levels = [], []
    for start_s, end_s, part, _version_id in parts_of(desk, standing):
        plan = desk.plan(part)
        count = min(len(peak), len(plan.level_db))
        at = plan.times.source_to_track(np.arange(count) * HOP_S)
        here = (at >= start_s) & (at < end_s)
        times.append(at[here])
        levels.append((peak[:count] * level_gain(plan.level_db[:count]))[here])
    return np.concatenate(times), np.concatenate(levels)


def _levels(times: np.ndarray, peak: np.ndarray) -> list[int]:
    if len(times) == 0:
        return []
    bins = np.floor(times / OUTLINE_S + 1e-9).astype(int)
    found = np.zeros(bins.max() + 1)
    np.maximum.at(found, np.maximum(bins, 0), peak)
    return [int(level) for level in np.minimum(np.round(found), 127)]
