"""Tracks that follow each other: how they were aligned."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from ..core.document.operations.on_follow import Follow
from ..services.following import alignment_shown
from .context import desk
from .schemas.stack import AlignmentIn, AlignmentOut

stack_routes = APIBlueprint("stack", __name__, tag="Stack")


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
