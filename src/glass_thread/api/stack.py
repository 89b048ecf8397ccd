"""Tracks that are made of or follow another one, and how the two lie on each other."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint
from flask import Response, jsonify

from ..core.document.operations.on_follow import Follow
from ..services.deriving import catch_up, derive, melody_of_midi
from ..services.following import alignment_shown
from .content_data import done_data
from .context import desk
from .edits import STALE
from .schemas.content import BaseIn, EditOut
from .schemas.songs import MidiIn
from .schemas.stack import AlignmentIn, AlignmentOut, DerivedOut, DeriveIn, MelodyOut
from .songs import track_data

stack_routes = APIBlueprint("stack", __name__, tag="Stack")


@stack_routes.post("/tracks/<track_id>/derived")
@stack_routes.input(DeriveIn)
@stack_routes.output(DerivedOut, status_code=201)
def post_derived(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Make doubles or a harmony of a track as it stands, as tracks of their own."""
    made = derive(desk(), track_id, json_data["operation"], voices=json_data["voices"])
    return {"tracks": [track_data(track) for track in made]}


@stack_routes.post("/midi-notes")
@stack_routes.input(MidiIn, location="files")
@stack_routes.output(MelodyOut)
def post_midi_notes(files_data: dict[str, Any]) -> dict[str, Any]:
    """Read the notes of a Standard MIDI file; nothing is changed."""
    notes = melody_of_midi(files_data["file"].stream)
    return {"notes": [{"start_s": start, "end_s": end, "midi": midi} for start, end, midi in notes]}


@stack_routes.post("/tracks/<track_id>/catch-up")
@stack_routes.input(BaseIn)
@stack_routes.output(EditOut)
@stack_routes.doc(responses=STALE)
def post_catch_up(track_id: str, json_data: dict[str, Any]) -> Response:
    """Make a derived track anew from what it is made of; what was edited by hand stays."""
    return jsonify(done_data(catch_up(desk(), track_id, base=json_data["base"])))


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
    return {"pairs": pairs, "lead_alone": alone, "alone": shown.alone}
