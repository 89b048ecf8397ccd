"""The hand-off folder of a song; folders are named, never given by a path."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from ..services.prints.handoff import bring_in, folder_names, handoff_root, link, state_of, take_tempo
from .context import desk, workspace
from .schemas.handoff import BringIn, BroughtOut, HandoffFoldersOut, HandoffIn, HandoffMidiIn, HandoffOut
from .schemas.songs import SongOut
from .songs import open_song_data

handoff_routes = APIBlueprint("handoff", __name__, tag="Hand-off")


@handoff_routes.get("/handoff-folders")
@handoff_routes.output(HandoffFoldersOut)
def get_folders() -> dict[str, Any]:
    """The hand-off folders there are, and where they lie."""
    return {"folders": folder_names(workspace()), "root": str(handoff_root(workspace()))}


@handoff_routes.put("/songs/<song_id>/handoff")
@handoff_routes.input(HandoffIn)
@handoff_routes.output(HandoffOut)
def put_handoff(song_id: str, json_data: dict[str, Any]) -> Any:
    """Link the song with a folder, with a new one when `make` is said, or with none."""
    link(desk(), song_id, json_data["folder"], make=json_data["make"])
    return state_of(desk(), song_id)


@handoff_routes.get("/songs/<song_id>/handoff")
@handoff_routes.output(HandoffOut)
def get_handoff(song_id: str) -> Any:
    """What lies in the song's folder."""
    return state_of(desk(), song_id)


@handoff_routes.post("/songs/<song_id>/handoff/bring")
@handoff_routes.input(BringIn)
@handoff_routes.output(BroughtOut, status_code=202)
def post_bring(song_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Bring files in, each at its place; a changed one as a new take with the edits that fit it."""
    return {"tasks": bring_in(desk(), song_id, json_data["files"])}


@handoff_routes.post("/songs/<song_id>/handoff/tempo")
@handoff_routes.input(HandoffMidiIn)
@handoff_routes.output(SongOut)
def post_tempo(song_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Take tempo, meter, bar 1 and key from a MIDI file of the folder."""
    song = take_tempo(desk(), song_id, json_data["file"])
    return open_song_data(song)
