"""What was done to a song, step by step, and what was removed."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from ..services.song.removed import removed, restore_song, restore_track, sweep_removed
from ..services.song.song_steps import SongMoved, redo_song, song_steps, undo_song
from .context import desk, workspace
from .schemas.song_steps import RemovedOut, SongMovedOut, SongStepsOut, SweptOut
from .songs import open_song_data

song_step_routes = APIBlueprint("song-steps", __name__, tag="Steps of songs")


@song_step_routes.get("/songs/<song_id>/steps")
@song_step_routes.output(SongStepsOut)
def get_song_steps(song_id: str) -> dict[str, Any]:
    """The steps of a song, newest first: done, undone, or left behind."""
    return {"steps": song_steps(desk(), song_id)}


@song_step_routes.post("/songs/<song_id>/undo")
@song_step_routes.output(SongMovedOut)
def post_song_undo(song_id: str) -> dict[str, Any]:
    """Take back the last step of a song, on all tracks that it was made on."""
    return _moved(song_id, undo_song(desk(), song_id))


@song_step_routes.post("/songs/<song_id>/redo")
@song_step_routes.output(SongMovedOut)
def post_song_redo(song_id: str) -> dict[str, Any]:
    """Do again what was taken back in a song."""
    return _moved(song_id, redo_song(desk(), song_id))


def _moved(song_id: str, moved: SongMoved) -> dict[str, Any]:
    done = moved.done
    tracks = [] if done is None else [done.version.track_id, *done.others]
    return {"song": open_song_data(workspace().songs.get(song_id)), "label": moved.step.label, "tracks": tracks}


@song_step_routes.get("/removed")
@song_step_routes.output(RemovedOut)
def get_removed() -> dict[str, Any]:
    """Songs and tracks that were removed and can be brought back, the latest first."""
    return {"removed": removed(workspace())}


@song_step_routes.delete("/removed")
@song_step_routes.output(SweptOut)
def delete_removed() -> Any:
    """Take away for good what was removed, with its files."""
    desk().sound.let_go()
    return sweep_removed(workspace())


@song_step_routes.post("/songs/<song_id>/restore")
@song_step_routes.output({}, status_code=204)
def post_song_restore(song_id: str) -> str:
    """Bring a removed song back."""
    restore_song(workspace(), song_id)
    return ""


@song_step_routes.post("/tracks/<track_id>/restore")
@song_step_routes.output({}, status_code=204)
def post_track_restore(track_id: str) -> str:
    """Bring a removed track back into its song."""
    restore_track(workspace(), track_id)
    return ""
