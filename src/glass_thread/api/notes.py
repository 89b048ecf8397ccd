"""The document of a track: notes, edits, undo and redo."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from apiflask import APIBlueprint

from ..core.document.content import air_owners
from ..core.document.edits import EditedNote
from ..core.document.flags import Flag
from ..core.document.gestures import note_frames
from ..core.document.operations.air_passes import harsh
from ..core.document.operations.gesture_edits import alike_phrases
from ..core.document.operations.note_edits import lost_edits, propose_split
from ..core.document.strain import advice, asked_of, kept, strain
from ..services.documents import TrackDocument, load_document
from ..services.edit import edit_text, edit_track, preview_edit, redo, undo
from ..services.tuned_sound import Plan, changed_spans
from .context import sound, workspace
from .schemas import AlikeOut, DocumentOut, EditIn, PreviewIn, PreviewOut, RevisionIn, SplitOut, SplitQuery

note_routes = APIBlueprint("notes", __name__, tag="Notes")


def _note_data(document: TrackDocument, edited: EditedNote, target: float, flags: list[Flag], plan: Plan) -> dict:
    note, gesture = edited.note, edited.gesture
    tuned = note.centre_midi + gesture.pull * (target - note.centre_midi)
    a, b = note_frames(note, len(plan.correction))
    asked = asked_of(note, document.analysis, plan.correction, plan.formant)
    return {**vars(note), "target_midi": target, "tuned_midi": tuned, "edited": not gesture.is_as_sung,
            "flags": [f"{flag.kind}: {flag.reason}" for flag in flags], "gesture": gesture, "strain": strain(asked),
            "kept": kept(plan.contour.midi[a:b], plan.correction[a:b]),
            "advice": advice(asked, two_pitches=any(flag.kind == "two pitches" for flag in flags))}  # fmt: skip


def _content_data(document: TrackDocument, plan: Plan) -> dict[str, Any]:
    targets = document.targets()
    flags: dict[str, list[Flag]] = {}
    for flag in document.flags():
        flags.setdefault(flag.note_id, []).append(flag)
    content = document.content
    owners, stands_out = air_owners(content), harsh(content)
    notes = [_note_data(document, e, targets[i], flags.get(i, []), plan) for i, e in content.notes.items()]
    air = [{**asdict(e.event), "change_db": e.level_db, "muted": e.muted, "owner": owners[i],
            "harsh_db": stands_out.get(i)} for i, e in content.air.items()]  # fmt: skip
    return {"notes": notes, "air": air, "gaps": list(content.gaps.values())}


def document_data(document: TrackDocument, before: TrackDocument | None = None) -> dict[str, Any]:
    """A document for `DocumentOut`; with `before`, the time ranges whose sound differs."""
    plan = sound().plan(document)
    spans = changed_spans(sound().plan(document, before.content), plan) if before is not None else []
    cursor = document.track.cursor
    return {
        "track_id": document.track.id, "revision": document.track.revision,
        **_content_data(document, plan),
        "steps": [{"number": s.number, "label": s.label, "in_force": s.number <= cursor} for s in document.steps],
        "can_undo": cursor > 0, "can_redo": cursor < len(document.steps),
        "changed": [{"start_s": a, "end_s": b} for a, b in spans],
    }  # fmt: skip


@note_routes.get("/tracks/<track_id>/document")
@note_routes.output(DocumentOut)
def get_document(track_id: str) -> dict[str, Any]:
    """Notes as they stand, with the list of steps."""
    return document_data(load_document(workspace(), track_id))


@note_routes.post("/tracks/<track_id>/edits")
@note_routes.input(EditIn)
@note_routes.output(DocumentOut)
@note_routes.doc(responses={409: "Made against an older revision; nothing was changed"})
def post_edit(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Apply one edit operation made against `base_revision`."""
    before = load_document(workspace(), track_id)
    return document_data(edit_track(workspace(), track_id, **json_data), before)


@note_routes.post("/tracks/<track_id>/undo")
@note_routes.input(RevisionIn)
@note_routes.output(DocumentOut)
def post_undo(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Take back the last step."""
    before = load_document(workspace(), track_id)
    return document_data(undo(workspace(), track_id, **json_data), before)


@note_routes.post("/tracks/<track_id>/redo")
@note_routes.input(RevisionIn)
@note_routes.output(DocumentOut)
def post_redo(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Do the last undone step again."""
    before = load_document(workspace(), track_id)
    return document_data(redo(workspace(), track_id, **json_data), before)


@note_routes.get("/tracks/<track_id>/split-proposal")
@note_routes.input(SplitQuery, location="query")
@note_routes.output(SplitOut)
def get_split_proposal(track_id: str, query_data: dict[str, Any]) -> Any:
    """Where a note would be cut near a time, and the centres on both sides."""
    document = load_document(workspace(), track_id)
    return propose_split(document.notes, document.analysis, **query_data)


@note_routes.get("/tracks/<track_id>/phrases/<int:phrase>/alike")
@note_routes.output(AlikeOut)
def get_alike(track_id: str, phrase: int) -> dict[str, Any]:
    """Phrases that repeat this one in pitch and rhythm."""
    return {"phrases": alike_phrases(load_document(workspace(), track_id).notes, phrase)}


@note_routes.post("/tracks/<track_id>/preview")
@note_routes.input(PreviewIn)
@note_routes.output(PreviewOut)
def post_preview(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Try an operation without taking it; its curve and sound can be asked for as “preview”."""
    document = load_document(workspace(), track_id)
    tried, change = preview_edit(workspace(), document, json_data["operation"])
    sound().keep_preview(track_id, tried.content)
    plan = sound().plan(tried)
    notes = sum(isinstance(after or before, EditedNote) for before, after in change.values())
    return {
        **_content_data(tried, plan),
        "changed_notes": notes,
        "changed_air": len(change) - notes,
        "lost": [edit_text(edited) for edited in lost_edits(change)],
        "changed": [{"start_s": a, "end_s": b} for a, b in changed_spans(sound().plan(document), plan)],
    }
