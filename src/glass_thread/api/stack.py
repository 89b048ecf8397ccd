"""Tracks that are made of or follow another one, and how the two lie on each other."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint
from flask import Response, jsonify

from ..core.document.operations.on_follow import Follow
from ..services.linked.catching_up import catch_up_followers
from ..services.linked.deriving import derive, try_voices
from ..services.session.meters import keys_of
from ..services.song.in_small import OUTLINE_S, in_small
from ..services.song.stack import edit_stack
from ..services.voices.following import alignment_shown
from ..services.voices.melodies import melody_match, melody_of_midi, typed_melody
from .content_data import preview_data
from .context import desk, previews, workspace
from .edits import STALE
from .schemas.queries import StepQuery
from .schemas.songs import MidiIn
from .schemas.stack import (
    AlignmentIn,
    AlignmentOut,
    CaughtUpOut,
    DerivedOut,
    DeriveIn,
    InSmallOut,
    MelodyMatchIn,
    MelodyMatchOut,
    MelodyOut,
    StackEditIn,
    StackEditOut,
    TriedVoicesOut,
    TryVoicesIn,
    TypedMelodyIn,
    TypedMelodyOut,
)
from .songs import track_data

stack_routes = APIBlueprint("stack", __name__, tag="Stack")


@stack_routes.post("/songs/<song_id>/edits")
@stack_routes.input(StackEditIn)
@stack_routes.output(StackEditOut)
@stack_routes.doc(responses=STALE)
def post_stack_edit(song_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Apply one operation to all of several tracks: one step, taken back as one; or nothing changes anywhere."""
    return {"tracks": edit_stack(desk(), song_id, json_data["operation"], json_data["tracks"])}


@stack_routes.get("/tracks/<track_id>/in-small")
@stack_routes.input(StepQuery, location="query")
@stack_routes.output(InSmallOut)
def get_in_small(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """What is sung when and how loud it is, at a step; seconds of the track."""
    small = in_small(desk(), track_id, query_data["step"])
    notes = [{"start_s": start, "end_s": end, "midi": midi} for start, end, midi in small.notes]
    return {"notes": notes, "outline": small.outline, "outline_s": OUTLINE_S}


@stack_routes.post("/tracks/<track_id>/derived")
@stack_routes.input(DeriveIn)
@stack_routes.output(DerivedOut, status_code=201)
def post_derived(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Make doubles or a harmony of a track as it stands, as tracks of their own."""
    made = derive(desk(), track_id, json_data["operation"], voices=json_data["voices"])
    return {"tracks": [track_data(track) for track in made]}


@stack_routes.post("/tracks/<track_id>/derived-preview")
@stack_routes.input(TryVoicesIn)
@stack_routes.output(TriedVoicesOut)
def post_derived_preview(track_id: str, json_data: dict[str, Any]) -> Response:
    """Try doubles or a harmony without making them; the sound of each can be asked for by its `preview_id`."""
    tried = try_voices(
        desk(), previews(), track_id, json_data["operation"], voices=json_data["voices"], step_id=json_data["step"]
    )
    return jsonify({
        "first": preview_data(tried[0][0]),
        "voices": [{"preview_id": one.id, **place._asdict()} for one, place in tried],
    })  # fmt: skip


@stack_routes.post("/songs/<song_id>/midi-notes")
@stack_routes.input(MidiIn, location="files")
@stack_routes.output(MelodyOut)
def post_midi_notes(song_id: str, files_data: dict[str, Any]) -> dict[str, Any]:
    """Read the notes of a Standard MIDI file in the song's tuning; nothing is changed."""
    notes = melody_of_midi(files_data["file"].stream, keys_of(workspace().songs.get(song_id))[0].tuning)
    return {"notes": [{"start_s": start, "end_s": end, "midi": midi} for start, end, midi in notes]}


@stack_routes.post("/songs/<song_id>/typed-melody")
@stack_routes.input(TypedMelodyIn)
@stack_routes.output(TypedMelodyOut)
def post_typed_melody(song_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """The pitches of a line of names in the song's tuning; nothing is changed."""
    return {"pitches": typed_melody(desk(), song_id, json_data["text"])}


@stack_routes.post("/tracks/<track_id>/melody-match")
@stack_routes.input(MelodyMatchIn)
@stack_routes.output(MelodyMatchOut)
def post_melody_match(track_id: str, json_data: dict[str, Any]) -> Any:
    """What of a melody and of a track's notes did not find each other; nothing is changed."""
    standing = desk().at(track_id, json_data.pop("step"))
    return melody_match(desk(), standing, **json_data)


@stack_routes.post("/tracks/<track_id>/followers/catch-up")
@stack_routes.output(CaughtUpOut)
def post_followers_catch_up(track_id: str) -> dict[str, Any]:
    """Bring all tracks level that follow this one by themselves, and what follows those."""
    return {"tracks": catch_up_followers(desk(), track_id)}


@stack_routes.post("/tracks/<track_id>/alignment")
@stack_routes.input(AlignmentIn)
@stack_routes.output(AlignmentOut)
def post_alignment(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """How a track lies on another one of its song; nothing is changed."""
    follower = desk().at(track_id, json_data["step"])
    asked = Follow(lead_track=json_data["lead_track"], anchors=json_data["anchors"])
    shown = alignment_shown(desk(), follower, asked)
    pairs = [{"lead_s": a, "follower_s": b, "lead_midi": midi} for a, b, midi in shown.pairs]
    alone = [{"start_s": a, "end_s": b} for a, b in shown.lead_alone]
    return {"pairs": pairs, "lead_alone": alone, "alone": shown.alone, "in_a_round": shown.in_a_round}
