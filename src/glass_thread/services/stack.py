"""Edits that run over all tracks of a song."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.document.operations.registry import describe, parse_operation
from ..core.signal.errors import ParameterError
from ..formats.plain_data import change_to_data
from ..store.history import NewStep
from .desk import Desk
from .edit import applied, open_version

STACKED = ("double", "harmony")


@dataclass(frozen=True)
class StackChange:
    """What was changed in one track of a stack."""

    track_id: str
    name: str
    changed: int


def set_stack_breaths(desk: Desk, song_id: str, *, level_db: float, muted: bool) -> list[StackChange]:
    """Lower or remove the breaths of all doubles and harmonies; the lead keeps its own.

    One step in the history of every track that changes; all are stored, or none.
    """
    workspace = desk.workspace
    workspace.songs.get(song_id)
    tracks = [track for track in workspace.tracks.of_song(song_id) if track.role in STACKED and track.ready]
    if not tracks:
        raise ParameterError("This song has no doubles or harmonies yet; bring them in with that role.")
    asked = parse_operation({"type": "set_breaths", "values": {"level_db": level_db, "muted": muted}})
    found, steps, standings = [], [], []
    for track in tracks:
        version = open_version(desk, track.id, None)
        change, after = applied(desk, desk.at(track.id, version.head_id), asked)
        found.append(StackChange(track.id, track.name, len(change)))
        if change:
            label = describe(asked, change)
            steps.append(NewStep(version.id, version.head_id, label, asked.to_data(), change_to_data(change)))
            standings.append(after)
    for standing, (_version, step) in zip(standings, workspace.history.append(steps), strict=True):
        desk.keep(standing, step)
    return found
