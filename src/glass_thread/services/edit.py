"""Edit, undo and redo; a step is stored before it is acknowledged."""

from __future__ import annotations

import time
from dataclasses import replace
from typing import Any

import numpy as np

from ..core.analysis.f0 import track_f0
from ..core.document.content import ContentChange, apply_to_content
from ..core.document.edits import AS_SUNG, ASPECTS, EditedNote, selected
from ..core.document.operations.operations import apply_operation, describe
from ..core.signal.errors import ParameterError, StaleEditError
from ..core.signal.types import HOP_S
from ..core.signal.units import pitch_label
from ..formats.audio import read_audio
from ..formats.documents import change_from_data, change_to_data
from ..store.records import Step
from .documents import TrackDocument, load_document
from .workspace import Workspace


def edit_track(workspace: Workspace, track_id: str, *, base_revision: int, operation: dict[str, Any]) -> TrackDocument:
    """Apply one operation; returns the new document.  An edit that changes nothing leaves no step."""
    document = load_document(workspace, track_id)
    if document.track.revision != base_revision:
        raise StaleEditError(
            "This track was changed elsewhere in the meantime; the newer state is shown now.",
            current=document.track.revision,
        )
    operation = with_reading(workspace, document, operation)
    change = apply_operation(document.content, document.key, operation, document.analysis)
    if not change:
        return document
    step = Step(0, describe(operation, change), operation, change_to_data(change), time.time())
    track = workspace.tracks.commit(track_id, base_revision=base_revision, move_cursor=1, step=step)
    steps = [*document.steps[: document.track.cursor], replace(step, number=track.cursor)]
    return replace(document, track=track, steps=steps, content=apply_to_content(document.content, change))


READING_MARGIN_S = 0.1


def with_reading(workspace: Workspace, document: TrackDocument, operation: dict[str, Any]) -> dict[str, Any]:
    """Give a “read again” of notes the pitch that is found in the recording between `low_hz` and `high_hz`."""
    if operation.get("type") != "read_again" or "readings" in operation:
        return operation
    chosen = selected(document.notes, operation.get("note_ids", ()))
    audio, info = read_audio(workspace.audio.source(document.track.audio_hash))
    try:
        low, high = float(operation.get("low_hz", 50)), float(operation.get("high_hz", 1200))
    except (TypeError, ValueError) as error:
        raise ParameterError("The range to read again needs two frequencies in hertz.") from error
    readings = {}
    for edited in chosen:
        first = max(0, round((edited.note.start_s - READING_MARGIN_S) / HOP_S))
        last = round((edited.note.end_s + READING_MARGIN_S) / HOP_S)
        piece = audio[:, round(first * HOP_S * info.sample_rate) : round(last * HOP_S * info.sample_rate)]
        found = track_f0(piece.mean(axis=0), info.sample_rate, low_hz=low, high_hz=high)
        readings[edited.note.id] = (first, [None if np.isnan(value) else float(value) for value in found.midi])
    return {"type": "read_again", "readings": readings}


def preview_edit(
    workspace: Workspace, document: TrackDocument, operation: dict[str, Any]
) -> tuple[TrackDocument, ContentChange]:
    """The document as it would be after an operation, and the change; nothing is stored."""
    operation = with_reading(workspace, document, operation)
    change = apply_operation(document.content, document.key, operation, document.analysis)
    return replace(document, content=apply_to_content(document.content, change)), change


def edit_text(edited: EditedNote) -> str:
    """A note with something asked of it, in words: where it is and what would be lost."""
    asked = [name.replace("_", " ") for name, fields in ASPECTS.items() if name != "all" and any(
        getattr(edited.gesture, field) != getattr(AS_SUNG, field) for field in fields)]  # fmt: skip
    return f"{pitch_label(edited.note.centre_midi)} at {edited.note.start_s:.2f} s: {', '.join(asked)}"


def undo(workspace: Workspace, track_id: str, *, base_revision: int) -> TrackDocument:
    """Take back the last step in force."""
    document = load_document(workspace, track_id)
    if document.track.cursor == 0:
        raise ParameterError("There is nothing to undo.")
    step = document.steps[document.track.cursor - 1]
    return _walk(workspace, document, step, base_revision, backwards=True)


def redo(workspace: Workspace, track_id: str, *, base_revision: int) -> TrackDocument:
    """Do the next undone step again."""
    document = load_document(workspace, track_id)
    if document.track.cursor >= len(document.steps):
        raise ParameterError("There is nothing to redo.")
    step = document.steps[document.track.cursor]
    return _walk(workspace, document, step, base_revision, backwards=False)


def _walk(
    workspace: Workspace, document: TrackDocument, step: Step, base_revision: int, *, backwards: bool
) -> TrackDocument:
    track = workspace.tracks.commit(document.track.id, base_revision=base_revision, move_cursor=-1 if backwards else 1)
    content = apply_to_content(document.content, change_from_data(step.change), backwards=backwards)
    return replace(document, track=track, content=content)
