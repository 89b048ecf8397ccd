"""The document of a track: notes, edits, undo and redo."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from apiflask import APIBlueprint

from ..core.edits import EditedNote
from ..services.documents import TrackDocument, load_document
from ..services.edit import edit_track, redo, undo
from ..services.tuned_sound import changed_spans
from .context import sound, workspace
from .schemas import DocumentOut, EditIn, RevisionIn

note_routes = APIBlueprint("notes", __name__, tag="Notes")


def _note_data(edited: EditedNote, target: float, flags: list[str]) -> dict[str, Any]:
    note, gesture = edited.note, edited.gesture
    tuned = note.centre_midi + gesture.pull * (target - note.centre_midi)
    return {**asdict(note), "target_midi": target, "tuned_midi": tuned, "edited": not gesture.is_as_sung,
            "flags": flags, "gesture": gesture}  # fmt: skip


def document_data(document: TrackDocument, before: TrackDocument | None = None) -> dict[str, Any]:
    """A document for `DocumentOut`; with `before`, the time ranges whose sound differs."""
    targets = document.targets()
    flags: dict[str, list[str]] = {}
    for flag in document.flags():
        flags.setdefault(flag.note_id, []).append(f"{flag.kind}: {flag.reason}")
    spans = []
    if before is not None:
        spans = changed_spans(sound().plan(document, before.notes), sound().plan(document), document)
    cursor = document.track.cursor
    return {
        "track_id": document.track.id, "revision": document.track.revision,
        "notes": [_note_data(e, targets[i], flags.get(i, [])) for i, e in document.notes.items()],
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
