"""What is edited of a track at a step: read, edit, undo, redo, jump, try out."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint
from flask import Response, jsonify

from ..core.document.operations.on_time import ShiftEdge, Slip
from ..core.document.operations.registry import parse_operation
from ..core.document.operations.rules.gesture_edits import alike_phrases
from ..core.document.operations.rules.note_edits import propose_split
from ..services.history.edit import edit, jump, open_version, redo, undo
from ..services.history.time_room import time_room
from ..services.session.candidates import candidates
from ..services.voices.lending import offers
from .content_data import content_data, done_data, preview_data, version_data
from .context import desk, marks_ahead, previews
from .schemas.borrowing import OffersIn, OffersOut
from .schemas.content import (
    AlikeOut,
    BaseIn,
    CandidatesOut,
    ContentOut,
    EditIn,
    EditOut,
    JumpIn,
    PreviewIn,
    PreviewOut,
    SplitOut,
    SplitQuery,
    TimeRoomIn,
    TimeRoomOut,
)
from .schemas.queries import StepQuery, VersionQuery

edit_routes = APIBlueprint("edits", __name__, tag="Edits")
STALE = {409: "Made against an older step; nothing was changed"}


@edit_routes.get("/tracks/<track_id>/content")
@edit_routes.input(VersionQuery, location="query")
@edit_routes.output(ContentOut)
def get_content(track_id: str, query_data: dict[str, Any]) -> Response:
    """Notes, air and gaps of a version as it stands; of the one worked on unless another is named."""
    version = open_version(desk(), track_id, query_data["version"])
    standing = desk().at(track_id, query_data["step"] or version.head_id)
    plan = desk().plan(standing)
    marks_ahead().find(standing.track.audio_hash, plan)
    data = content_data(standing, plan, desk().verdicts(standing))
    return jsonify({"track_id": track_id, "step_id": standing.step_id, "version": version_data(version), **data})


@edit_routes.post("/tracks/<track_id>/edits")
@edit_routes.input(EditIn)
@edit_routes.output(EditOut)
@edit_routes.doc(responses=STALE)
def post_edit(track_id: str, json_data: dict[str, Any]) -> Response:
    """Apply one edit operation to a version whose head is `base`; the answer holds only what changed."""
    return jsonify(done_data(edit(desk(), track_id, json_data.pop("operation"), **json_data)))


@edit_routes.post("/tracks/<track_id>/undo")
@edit_routes.input(BaseIn)
@edit_routes.output(EditOut)
@edit_routes.doc(responses=STALE)
def post_undo(track_id: str, json_data: dict[str, Any]) -> Response:
    """Go back to the step before."""
    return jsonify(done_data(undo(desk(), track_id, **json_data)))


@edit_routes.post("/tracks/<track_id>/redo")
@edit_routes.input(BaseIn)
@edit_routes.output(EditOut)
@edit_routes.doc(responses=STALE)
def post_redo(track_id: str, json_data: dict[str, Any]) -> Response:
    """Go on to the step that was undone last."""
    return jsonify(done_data(redo(desk(), track_id, **json_data)))


@edit_routes.post("/tracks/<track_id>/jump")
@edit_routes.input(JumpIn)
@edit_routes.output(EditOut)
@edit_routes.doc(responses=STALE)
def post_jump(track_id: str, json_data: dict[str, Any]) -> Response:
    """Go to any step of the track's history."""
    return jsonify(done_data(jump(desk(), track_id, **json_data)))


@edit_routes.get("/tracks/<track_id>/split-proposal")
@edit_routes.input(SplitQuery, location="query")
@edit_routes.output(SplitOut)
def get_split_proposal(track_id: str, query_data: dict[str, Any]) -> Any:
    """Where a note would be cut near a time, and the centres on both sides."""
    standing = desk().at(track_id, query_data.pop("step"))
    return propose_split(standing.content.notes, standing.analysis, **query_data)


@edit_routes.get("/tracks/<track_id>/notes/<note_id>/candidates")
@edit_routes.input(StepQuery, location="query")
@edit_routes.output(CandidatesOut)
def get_candidates(track_id: str, note_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """Two pitches that a note may be meant to have, and how each sits on the backing there."""
    standing = desk().at(track_id, query_data["step"])
    return {"candidates": [one._asdict() for one in candidates(desk(), standing, note_id)]}


@edit_routes.get("/tracks/<track_id>/phrases/<int:phrase>/alike")
@edit_routes.input(StepQuery, location="query")
@edit_routes.output(AlikeOut)
def get_alike(track_id: str, phrase: int, query_data: dict[str, Any]) -> dict[str, Any]:
    """Phrases that repeat this one in pitch and rhythm."""
    return {"phrases": alike_phrases(desk().at(track_id, query_data["step"]).content.notes, phrase)}


@edit_routes.post("/tracks/<track_id>/time-room")
@edit_routes.input(TimeRoomIn)
@edit_routes.output(TimeRoomOut)
def post_time_room(track_id: str, json_data: dict[str, Any]) -> dict[str, float]:
    """How far notes, or one edge of them, can be moved in time before too little gives way."""
    standing = desk().at(track_id, json_data.pop("step"))
    edge = json_data.pop("edge")
    kind = {"type": "slip"} if edge == "both" else {"type": "shift_edge", "edge": edge}
    asked = parse_operation({**kind, "by_ms": 0.0, **json_data})
    assert isinstance(asked, (ShiftEdge, Slip))
    least, most = time_room(desk(), standing, asked)
    return {"least_ms": least, "most_ms": most}


@edit_routes.post("/tracks/<track_id>/preview")
@edit_routes.input(PreviewIn)
@edit_routes.output(PreviewOut)
def post_preview(track_id: str, json_data: dict[str, Any]) -> Response:
    """Try an operation without taking it; its curve and sound can be asked for by the `preview_id`."""
    return jsonify(preview_data(previews().try_out(track_id, json_data["operation"], step_id=json_data["step"])))


@edit_routes.post("/tracks/<track_id>/borrow-offers")
@edit_routes.input(OffersIn)
@edit_routes.output(OffersOut)
def post_borrow_offers(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Where the same word was sung too, in any vocal of the song; the likeliest first."""
    standing = desk().at(track_id, json_data["step"])
    return {"offers": offers(desk(), standing, json_data["note_ids"])}
