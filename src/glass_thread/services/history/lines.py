"""Moments that the notes of a track may be brought to: the song's grid, or where another track's notes start."""

from __future__ import annotations

import numpy as np

from ...core.document.operations.on_time import Quantise
from ...core.document.time.stretches import track_place
from ...core.signal.errors import ParameterError
from ...core.signal.types import Floats
from ...core.song.beats import grid_lines
from ..session.desk import Desk, Standing
from ..session.meters import meters_of

AROUND_S = 5.0  # of the recording in which lines are looked for


def lines_for(desk: Desk, standing: Standing, asked: Quantise) -> Floats:
    """The lines that an operation asks for, in track seconds of the standing's track."""
    track = standing.track
    if asked.onto is not None:
        return _starts(desk, standing, asked.onto) - track.offset_s
    if not standing.song.tempo_chosen:
        raise ParameterError("The song has no tempo yet. Set one under “Key, tempo and tuning” first.")
    start, end = track.offset_s - AROUND_S, track.offset_s + track.duration_s + AROUND_S
    return grid_lines(meters_of(standing.song), asked.grid, start, end, swing=asked.swing) - track.offset_s


def _starts(desk: Desk, standing: Standing, track_id: str) -> Floats:
    """Where the notes of another track of the song start, in song seconds, as it stands now."""
    other = desk.at(track_id)
    if other.track.song_id != standing.song.id or track_id == standing.track.id:
        raise ParameterError("The notes to go by are those of another track of the same song.")
    stretches = desk.plan(other).stretches
    starts = [track_place(stretches, edited.note.start_s) for edited in other.content.notes.values()]
    return np.array(starts) + other.track.offset_s
