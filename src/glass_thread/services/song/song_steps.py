"""The steps of a song: listed, taken back and done again, with those of tracks that they were made of."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from ...core.signal.errors import ParameterError
from ...store.records import SongStep
from ...store.song_log import DONE, UNDONE
from ..history.edit import Done, redo, undo
from ..history.shared_steps import leads_on, standing_at
from ..session.desk import Desk


class SongMoved(NamedTuple):
    """A step of a song that was taken back or done again, and what that did to a track, with those that went along."""

    step: SongStep
    done: Done | None = None


def song_steps(desk: Desk, song_id: str) -> list[SongStep]:
    """The steps of a song, newest first."""
    desk.workspace.songs.get(song_id)
    return desk.workspace.log.all(song_id)[::-1]


def undo_song(desk: Desk, song_id: str) -> SongMoved:
    """Take back the last step of a song, on all tracks that it was made on.

    Raises
    ------
    ParameterError
        When there is none, or when one of its tracks went on from it.
    """
    desk.workspace.songs.get(song_id)
    step = desk.workspace.log.latest(song_id)
    if step is None:
        raise ParameterError("There is nothing to undo in the song.")
    steps = _of_tracks(desk, step)
    for track_id, made in steps:
        version = standing_at(desk, track_id, made)
        if version is not None:
            return SongMoved(step, undo(desk, track_id, base=made, version_id=version.id))
    for track_id, made in steps:
        if leads_on(desk, track_id, made):
            name = desk.workspace.tracks.get(track_id).name
            raise ParameterError(f"“{step.label}”: “{name}” was edited since. Undo that there first.")
    desk.workspace.log.go(step.id, UNDONE)
    return SongMoved(step)


def redo_song(desk: Desk, song_id: str) -> SongMoved:
    """Do again what `undo_song` took back last; ParameterError when nothing was, or a track stands elsewhere now."""
    desk.workspace.songs.get(song_id)
    step = desk.workspace.log.following(song_id)
    if step is None:
        raise ParameterError("There is nothing to redo in the song.")
    for track_id, made in _of_tracks(desk, step):
        before = str(desk.workspace.history.place(made).parent_id)
        version = standing_at(desk, track_id, before)
        if version is not None:
            return SongMoved(step, redo(desk, track_id, base=before, version_id=version.id))
        name = desk.workspace.tracks.get(track_id).name
        raise ParameterError(f"“{step.label}”: “{name}” stands elsewhere now, so it cannot be done again.")
    desk.workspace.log.go(step.id, DONE)
    return SongMoved(step)


def _of_tracks(desk: Desk, step: SongStep) -> Sequence[tuple[str, str]]:
    """The tracks that a step was made on, with the step of each."""
    return desk.workspace.history.made_at_once(step.id)
