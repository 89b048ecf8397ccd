"""Versions of a track: made, named, removed, switched, and told apart note by note."""

from __future__ import annotations

import time
from dataclasses import dataclass

from ...core.document.gestures import Gesture
from ...core.signal.errors import ParameterError
from ...store.records import Track, Version
from ..folder.names import one_line
from ..folder.workspace import Workspace
from ..session.desk import Desk, Standing
from .edit import open_version

LONGEST_NAME, LONGEST_NOTE = 60, 500


def list_versions(desk: Desk, track_id: str, *, removed: bool = False) -> list[Version]:
    """The versions of a track, As sung first, or those that were removed."""
    desk.track(track_id)
    return [version for version in desk.workspace.history.versions(track_id, removed=removed) if not version.is_comp]


def make_version(
    desk: Desk, track_id: str, name: str, *, note: str = "", from_version: str | None = None,
    from_step: str | None = None,
) -> Version:  # fmt: skip
    """A version that begins where another one stands, or at any step of the history; the open one without either."""
    head = from_step or open_version(desk, track_id, from_version).head_id
    if desk.at(track_id, head).content.choices:
        raise ParameterError("This step is a comp's. Make a version of the comp itself.")
    return desk.workspace.history.add_version(
        track_id, name=one_line(name, "A version's name", LONGEST_NAME), note=note[:LONGEST_NOTE], head_id=head
    )


def change_version(
    desk: Desk, track_id: str, version_id: str, *, name: str | None = None, note: str | None = None
) -> Version:
    """Change name or note of a version."""
    version = open_version(desk, track_id, version_id)
    values = {} if note is None else {"note": note[:LONGEST_NOTE]}
    if name is not None:
        if version.read_only:
            raise ParameterError("As sung keeps its name.")
        values["name"] = one_line(name, "A version's name", LONGEST_NAME)
    return desk.workspace.history.change_version(version_id, **values) if values else version


def remove_version(desk: Desk, track_id: str, version_id: str) -> Version:
    """Take a version out of the list; its steps stay, and it can be brought back."""
    version = open_version(desk, track_id, version_id)
    if version.kind not in ("made", "comp"):
        raise ParameterError(f"“{version.name}” belongs to every track and stays.")
    if desk.track(track_id).version_id == version_id:
        _, tuned = list_versions(desk, track_id)[:2]
        switch_version(desk, track_id, tuned.id)
    return desk.workspace.history.change_version(version_id, removed_at=time.time())


def restore_version(desk: Desk, track_id: str, version_id: str) -> Version:
    """Bring a removed version back."""
    open_version(desk, track_id, version_id)
    return desk.workspace.history.change_version(version_id, removed_at=None)


def switch_version(desk: Desk, track_id: str, version_id: str) -> Version:
    """Work on another version of a track from now on."""
    version = open_version(desk, track_id, version_id)
    if version.removed_at is not None:
        raise ParameterError("This version was removed; bring it back first.")
    if version.is_comp:
        raise ParameterError("A comp chooses among versions; open one of them, or make a version of the comp.")
    desk.workspace.tracks.change(track_id, {"version_id": version_id})
    return version


def heard_step(workspace: Workspace, track: Track) -> str | None:
    """The step of a track that is heard in the stack: that of its chosen version or comp, else of the one worked on."""
    if track.version_id is None:
        return None
    chosen = workspace.history.version(track.heard_version) if track.heard_version else None
    if chosen is None or chosen.removed_at is not None:
        chosen = workspace.history.version(track.version_id)
    return chosen.head_id


def as_heard(desk: Desk, track_id: str) -> Standing:
    """A track as it is heard in the stack."""
    return desk.at(track_id, heard_step(desk.workspace, desk.track(track_id)))


@dataclass(frozen=True)
class NoteDifference:
    """A note that two versions treat differently; None where a version has no such note.

    `tuned` are the pitches it ends up at in MIDI, `gestures` what is asked of it.
    """

    note_id: str
    start_s: float
    end_s: float
    tuned: tuple[float | None, float | None]
    gestures: tuple[Gesture | None, Gesture | None]
    cut_differently: bool


def compare(desk: Desk, track_id: str, first_step: str, second_step: str) -> list[NoteDifference]:
    """Notes that differ between two steps of a track, in order of time."""
    standings = [desk.at(track_id, step) for step in (first_step, second_step)]
    judged = [desk.verdicts(standing).notes for standing in standings]
    old, new = (standing.content.notes for standing in standings)
    found = []
    for note_id in dict.fromkeys((*old, *new)):
        pair = (old.get(note_id), new.get(note_id))
        if pair[0] == pair[1]:
            continue
        here = pair[1] or pair[0]
        assert here is not None
        tuned = tuple(v[note_id].tuned_midi if note_id in v else None for v in judged)
        cut = pair[0] is None or pair[1] is None or pair[0].note != pair[1].note
        gestures = tuple(None if e is None else e.gesture for e in pair)
        found.append(NoteDifference(note_id, *here.span_s, tuned, gestures, cut))  # type: ignore[arg-type]
    return sorted(found, key=lambda difference: difference.start_s)
