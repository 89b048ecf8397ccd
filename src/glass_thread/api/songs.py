"""Songs."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from apiflask import APIBlueprint

from ..core.signal.units import key_name
from ..core.song.spelling import key_title
from ..services.history.versions import heard_step
from ..services.session.keys import pitches_data, temperament_title, title_of
from ..services.session.meters import keys_of
from ..services.song.estimates.chords import chords_of
from ..services.song.estimates.tempo_offer import offer_tempo, tempo_of_midi
from ..services.song.removed import remove_song
from ..services.song.songs import change_song, create_song, markers_of, order_tracks
from ..services.song.typed_chords import chords_of_midi
from ..store.records import Song, Track
from .context import desk, workspace
from .schemas.songs import (
    ChordsOut,
    MidiIn,
    MidiTempoOut,
    OrderIn,
    SongChangeIn,
    SongIn,
    SongOut,
    SongsOut,
    TempoEstimateOut,
    TypedChordsOut,
)

song_routes = APIBlueprint("songs", __name__, tag="Songs")


def song_data(song: Song) -> dict[str, Any]:
    """A song with its tracks and unfinished tasks, for `SongOut`.

    Tasks are read before tracks: a track that is not ready yet never stands without the task that makes it so, by which
    the screen knows that it has to look again.
    """
    tasks = workspace().tasks.of_song(song.id)
    tracks = [track_data(track) for track in workspace().tracks.of_song(song.id)]
    return {**asdict(song), **_key_data(song), "markers": markers_of(song), "tracks": tracks, "tasks": tasks,
            "pitches": None, "turn": workspace().log.turn(song.id)}  # fmt: skip


def _key_data(song: Song) -> dict[str, Any]:
    """Keys and tuning in words."""
    asked = song.temperament
    return {"key_title": title_of(song), "reference_name": key_name(song.reference_key),
            "temperament": {"name": asked["name"], "title": temperament_title(song),
                            "mapped": bool(asked.get("kbm"))}}  # fmt: skip


def open_song_data(song: Song) -> dict[str, Any]:
    """A song by itself, with its pitches."""
    return {**song_data(song), "pitches": pitches_data(keys_of(song))}


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
    return open_song_data(create_song(workspace(), json_data["title"]))


@song_routes.get("/songs/<song_id>")
@song_routes.output(SongOut)
def get_song(song_id: str) -> dict[str, Any]:
    """One song."""
    return open_song_data(workspace().songs.get(song_id))


@song_routes.patch("/songs/<song_id>")
@song_routes.input(SongChangeIn)
@song_routes.output(SongOut)
def patch_song(song_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Change title, key, reference pitch, tempo, meter, bar 1 or done marks, as one step of the song."""
    base = json_data.pop("base", None)
    return open_song_data(change_song(workspace(), song_id, json_data, base=base))


@song_routes.put("/songs/<song_id>/order")
@song_routes.input(OrderIn)
@song_routes.output(SongOut)
def put_order(song_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Put the tracks of a song into an order; every one is named once."""
    order_tracks(workspace(), song_id, json_data["tracks"])
    return open_song_data(workspace().songs.get(song_id))


@song_routes.get("/songs/<song_id>/tempo")
@song_routes.output(TempoEstimateOut)
def get_tempo(song_id: str) -> Any:
    """Tempos the song may have, the most likely first, from its backing or else from the voice."""
    return offer_tempo(desk(), song_id)


@song_routes.get("/songs/<song_id>/chords")
@song_routes.output(ChordsOut)
def get_chords(song_id: str) -> Any:
    """The chords that are heard in the song's backing, in song seconds, with how sure each is."""
    return chords_of(desk(), song_id)


@song_routes.post("/songs/<song_id>/midi-chords")
@song_routes.input(MidiIn, location="files")
@song_routes.output(TypedChordsOut)
def post_midi_chords(song_id: str, files_data: dict[str, Any]) -> dict[str, Any]:
    """The chords of a MIDI file that begins with bar 1, by its markers or notes; nothing is changed."""
    song = workspace().songs.get(song_id)
    return {"chords": chords_of_midi(song, files_data["file"].stream)}


@song_routes.post("/midi-tempo")
@song_routes.input(MidiIn, location="files")
@song_routes.output(MidiTempoOut)
def post_midi_tempo(files_data: dict[str, Any]) -> Any:
    """Read tempo, meter and key of a Standard MIDI file with their changes; nothing is changed."""
    found = tempo_of_midi(files_data["file"].stream)
    title = "" if found.tonic is None or found.scale is None else key_title(found.tonic, found.scale)
    return {**vars(found), "key_title": title}


@song_routes.delete("/songs/<song_id>")
@song_routes.output({}, status_code=204)
def delete_song(song_id: str) -> str:
    """Remove a song; it can be brought back until what was removed is swept away."""
    remove_song(workspace(), song_id)
    return ""
