"""Songs and tracks that were removed: listed, brought back, or swept for good."""

from __future__ import annotations

import time
from dataclasses import dataclass

from ...core.signal.errors import ConflictError, NotFoundError
from ...store.repositories import brought_in
from ...store.sweep import Swept
from ..folder.workspace import Workspace, tidy


@dataclass(frozen=True)
class Removed:
    """A song, or a track of a song that is there, that was removed and can be brought back; `song` is its title,
    `seconds` what its recordings last."""

    kind: str
    id: str
    name: str
    song: str
    removed_at: float
    seconds: float


def remove_track(workspace: Workspace, track_id: str) -> None:
    """Take a track out of its song; it can be brought back until it is swept."""
    track = workspace.tracks.get(track_id)
    workspace.log.change(track.song_id, f"“{track.name}” removed", {brought_in(track_id): time.time()})


def remove_song(workspace: Workspace, song_id: str) -> None:
    """Take a song out of the list; it can be brought back until it is swept."""
    workspace.songs.get(song_id)
    workspace.songs.change(song_id, {"removed_at": time.time()})


def removed(workspace: Workspace) -> list[Removed]:
    """What can be brought back, the latest first."""
    titles = {one.id: one.title for one in workspace.songs.all()}
    songs = [Removed("song", one.id, one.title, one.title, float(one.removed_at or 0.0),
                     sum(track.duration_s for track in workspace.tracks.of_song(one.id)))
             for one in workspace.songs.removed()]  # fmt: skip
    tracks = [Removed("track", one.id, one.name, titles[one.song_id], float(one.removed_at or 0.0), one.duration_s)
              for one in workspace.tracks.removed() if one.song_id in titles]  # fmt: skip
    return sorted(songs + tracks, key=lambda one: one.removed_at, reverse=True)


def restore_song(workspace: Workspace, song_id: str) -> None:
    """Bring a removed song back."""
    if song_id not in {one.id for one in workspace.songs.removed()}:
        raise NotFoundError("This song was not removed, or it was swept away since.")
    workspace.songs.change(song_id, {"removed_at": None})


def restore_track(workspace: Workspace, track_id: str) -> None:
    """Bring a removed track back into its song; ConflictError when its recording was brought in anew meanwhile."""
    track = workspace.tracks.get(track_id, even_removed=True)
    workspace.songs.get(track.song_id)
    if track.derived_from is None and any(
        one.audio_hash == track.audio_hash and one.derived_from is None
        for one in workspace.tracks.of_song(track.song_id) if one.id != track_id
    ):  # fmt: skip
        raise ConflictError(f"The recording of “{track.name}” was brought in anew meanwhile; remove that track first.")
    workspace.log.change(track.song_id, f"“{track.name}” brought back", {brought_in(track_id): None})


def sweep_removed(workspace: Workspace) -> Swept:
    """Take away for good what was removed, with its files; it cannot be brought back any more."""
    workspace.songs.forget([one.id for one in workspace.songs.removed()])
    workspace.tracks.forget([one.id for one in workspace.tracks.removed()])
    return tidy(workspace)
