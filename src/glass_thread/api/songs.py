"""Songs."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from apiflask import APIBlueprint

from ..core.signal.scale_steps import SCALES
from ..services.key_change import preview_key
from ..services.songs import change_song, create_song, markers_of, order_tracks, put_key_back, song_key
from ..services.tempo_offer import offer_tempo, tempo_of_midi
from ..services.versions import heard_step
from ..services.workspace import tidy
from ..store.records import Song, Track
from .context import desk, workspace
from .schemas.songs import (
    KeyChangeOut,
    KeyIn,
    MidiIn,
    MidiTempoOut,
    OrderIn,
    ScalesOut,
    SongChangeIn,
    SongIn,
    SongOut,
    SongsOut,
    TempoEstimateOut,
)

song_routes = APIBlueprint("songs", __name__, tag="Songs")


def song_data(song: Song) -> dict[str, Any]:
    """A song with its tracks and unfinished tasks, for `SongOut`.

    Tasks are read before tracks: a track that is not ready yet never stands without the task that makes it so, by which
    the screen knows that it has to look again.
    """
    classes = list(song_key(song).classes)  # a song whose key was never saved has none of its own
    tasks = workspace().tasks.of_song(song.id)
    tracks = [track_data(track) for track in workspace().tracks.of_song(song.id)]
    return {**asdict(song), "classes": classes, "markers": markers_of(song), "tracks": tracks, "tasks": tasks}


def track_data(track: Track) -> dict[str, Any]:
    """A track with the step at which it is heard in the stack, for `TrackOut`."""
    return {**asdict(track), "duration_s": track.duration_s, "head_id": heard_step(workspace(), track)}


@song_routes.get("/songs")
@song_routes.output(SongsOut)
def get_songs() -> dict[str, Any]:
    """All songs with their tracks."""
    return {"songs": [song_data(song) for song in workspace().songs.all()]}


@song_routes.post("/songs")
@song_routes.input(SongIn)
@song_routes.output(SongOut, status_code=201)
def post_song(json_data: dict[str, Any]) -> dict[str, Any]:
    """Make a new, empty song."""
    return song_data(create_song(workspace(), json_data["title"]))


@song_routes.get("/songs/<song_id>")
@song_routes.output(SongOut)
def get_song(song_id: str) -> dict[str, Any]:
    """One song."""
    return song_data(workspace().songs.get(song_id))


@song_routes.patch("/songs/<song_id>")
@song_routes.input(SongChangeIn)
@song_routes.output(SongOut)
def patch_song(song_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Change title, key, reference pitch, tempo, meter, bar 1 or done marks."""
    return song_data(change_song(workspace(), song_id, json_data))


@song_routes.post("/songs/<song_id>/key-preview")
@song_routes.input(KeyIn)
@song_routes.output(KeyChangeOut)
def post_key_preview(song_id: str, json_data: dict[str, Any]) -> Any:
    """What another key or tuning would mean for the notes; nothing is changed."""
    workspace().songs.get(song_id)
    return preview_key(desk(), song_id, **json_data)


@song_routes.post("/songs/<song_id>/key-back")
@song_routes.output(SongOut)
def post_key_back(song_id: str) -> dict[str, Any]:
    """Take the last change of key and tuning back; a second time does it again."""
    return song_data(put_key_back(workspace(), song_id))


@song_routes.put("/songs/<song_id>/order")
@song_routes.input(OrderIn)
@song_routes.output(SongOut)
def put_order(song_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Put the tracks of a song into an order; every one is named once."""
    order_tracks(workspace(), song_id, json_data["tracks"])
    return song_data(workspace().songs.get(song_id))


@song_routes.get("/songs/<song_id>/tempo")
@song_routes.output(TempoEstimateOut)
def get_tempo(song_id: str) -> Any:
    """Tempos the song may have, the most likely first, from its backing or else from the voice."""
    return offer_tempo(desk(), song_id)


@song_routes.post("/midi-tempo")
@song_routes.input(MidiIn, location="files")
@song_routes.output(MidiTempoOut)
def post_midi_tempo(files_data: dict[str, Any]) -> Any:
    """Read tempo, meter and key from the beginning of a Standard MIDI file; nothing is changed."""
    return tempo_of_midi(files_data["file"].stream)


@song_routes.delete("/songs/<song_id>")
@song_routes.output({}, status_code=204)
def delete_song(song_id: str) -> str:
    """Remove a song with its tracks and edits, and their files when no other song uses them."""
    workspace().songs.get(song_id)
    workspace().songs.remove(song_id)
    tidy(workspace())
    return ""


@song_routes.get("/scales")
@song_routes.output(ScalesOut)
def get_scales() -> dict[str, Any]:
    """Names of the scales and their steps above the tonic in semitones."""
    return {"scales": SCALES}
