"""Edits of several tracks of a song at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields
from typing import Any

from ...core.document.operations.operation import OPERATIONS, Operation
from ...core.document.operations.registry import describe, parse_operation
from ...core.signal.errors import ParameterError
from ...formats.plain_data import change_to_data
from ...store.history import NewStep
from ...store.records import Track
from ..history.edit import applied, open_version, refuse_squeeze
from ..session.desk import Desk, Standing

_ALL_OF = {"note_ids": "notes", "air_ids": "air"}


@dataclass(frozen=True)
class StackChange:
    """What was changed in one track of a stack."""

    track_id: str
    name: str
    changed: int


def edit_stack(desk: Desk, song_id: str, operation: Mapping[str, Any], track_ids: Sequence[str]) -> list[StackChange]:
    """Apply one operation to whole tracks of a song: one shared step in every track that changes, or in none.

    Raises
    ------
    ParameterError
        With the name of the track on which it cannot be done.
    """
    tracks = _named(desk, song_id, track_ids)
    found, steps, standings = [], [], []
    for track in tracks:
        version = open_version(desk, track.id, None)
        before = desk.at(track.id, version.head_id)
        asked = _on_all(operation, before)
        try:
            change, after = applied(desk, before, asked)
            if change:
                refuse_squeeze(desk.moved(before, after))
        except ParameterError as error:
            raise ParameterError(f"{track.name}: {error}") from error
        found.append(StackChange(track.id, track.name, len(change)))
        if change:
            label = describe(asked, change)
            steps.append(NewStep(version.id, version.head_id, label, asked.to_data(), change_to_data(change)))
            standings.append(after)
    if len(steps) > 1:
        steps = [NewStep(s.version_id, s.base, f"{s.label}, on {len(steps)} tracks", s.operation, s.change)
                 for s in steps]  # fmt: skip
    what = OPERATIONS[str(operation["type"])].label
    logged = (song_id, f"{what} · {'1 track' if len(steps) == 1 else f'{len(steps)} tracks'}")
    made = desk.workspace.history.append(steps, logged=logged)
    for standing, (_version, step) in zip(standings, made, strict=True):
        desk.keep(standing, step)
    return found


def _named(desk: Desk, song_id: str, track_ids: Sequence[str]) -> list[Track]:
    desk.workspace.songs.get(song_id)
    there = {one.id: one for one in desk.workspace.tracks.of_song(song_id) if one.ready and one.role != "backing"}
    if not track_ids:
        raise ParameterError("Choose the tracks that are to change.")
    if not there.keys() >= set(track_ids):
        raise ParameterError("A track that is to change is no vocal of this song, or not ready yet.")
    return [there[one] for one in dict.fromkeys(track_ids)]


def _on_all(operation: Mapping[str, Any], standing: Standing) -> Operation:
    """An operation on everything in a track, whatever it names."""
    kind = OPERATIONS.get(str(operation.get("type")))
    if kind is not None and kind.needs in ("rows", "loan", "readings"):
        raise ParameterError(f"“{kind.label}” is done on one track at a time.")
    known = {one.name for one in fields(kind)} if kind else set[str]()
    everything = {name: list(getattr(standing.content, of)) for name, of in _ALL_OF.items() if name in known}
    return parse_operation({**operation, **everything})
