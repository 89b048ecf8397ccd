"""Edits that run over all tracks of a song."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.signal.errors import ParameterError
from .documents import load_document
from .edit import edit_track
from .workspace import Workspace

STACKED = ("double", "harmony")


@dataclass(frozen=True)
class StackChange:
    """What was changed in one track of a stack."""

    track_id: str
    name: str
    changed: int


def set_stack_breaths(workspace: Workspace, song_id: str, *, level_db: float, muted: bool) -> list[StackChange]:
    """Lower or remove the breaths of all doubles and harmonies; the lead keeps its own.

    One step in the history of every track that changes.
    """
    workspace.songs.get(song_id)
    tracks = [track for track in workspace.tracks.of_song(song_id) if track.role in STACKED and track.ready]
    if not tracks:
        raise ParameterError("This song has no doubles or harmonies yet; bring them in with that role.")
    found = []
    for track in tracks:
        before = load_document(workspace, track.id)
        operation = {"type": "set_breaths", "values": {"level_db": level_db, "muted": muted}}
        after = edit_track(workspace, track.id, base_revision=before.track.revision, operation=operation)
        changed = sum(before.content.air[key] != edited for key, edited in after.content.air.items())
        found.append(StackChange(track.id, track.name, changed))
    return found
