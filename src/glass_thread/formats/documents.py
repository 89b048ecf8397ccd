"""Plain-data forms of core records, for JSON documents and the database."""

from __future__ import annotations

import csv
import io
import json
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from ..core.document.content import ContentChange, Edited, EditedAir, Gap
from ..core.document.edits import EditedNote
from ..core.document.gestures import Gesture
from ..core.plan.hand_curve import Stroke
from ..core.signal.errors import ParameterError
from ..core.signal.types import AirEvent, Analysis, Contour, Floats, Note, Reading, Vibrato
from ..core.signal.units import pitch_name

ANALYSIS_FORMAT, EDITS_FORMAT = "glass-thread-analysis", "glass-thread-edits"
VERSION = 1


def note_to_data(note: Note) -> dict[str, Any]:
    """A note as plain data."""
    return asdict(note)


def note_from_data(data: dict[str, Any]) -> Note:
    """Inverse of `note_to_data`."""
    vibrato, span = data.get("vibrato"), data.get("centre_span")
    reading = data.get("reading")
    again = Reading(reading["first"], tuple(reading["midi"])) if reading else None
    found = {
        "reading": again,
        "vibrato": Vibrato(**vibrato) if vibrato else None,
        "centre_span": tuple(span) if span else None,
    }
    return Note(**{**data, **found})


def edited_to_data(edited: Edited | None) -> dict[str, Any] | None:
    """A note with its gesture, an air event with its level, or a cleared gap as plain data."""
    if isinstance(edited, EditedNote):
        return {"note": note_to_data(edited.note), "gesture": asdict(edited.gesture)}
    if isinstance(edited, EditedAir):
        return {"air": asdict(edited.event), "level_db": edited.level_db, "muted": edited.muted}
    return None if edited is None else {"gap": asdict(edited)}


def edited_from_data(data: dict[str, Any] | None) -> Edited | None:
    """Inverse of `edited_to_data`."""
    if data is None:
        return None
    if "air" in data:
        return EditedAir(AirEvent(**data["air"]), data["level_db"], data["muted"])
    if "gap" in data:
        return Gap(**data["gap"])
    return EditedNote(note_from_data(data["note"]), gesture_from_data(data["gesture"]))


def gesture_from_data(data: dict[str, Any]) -> Gesture:
    """A gesture from plain data; values that an older version did not know are as sung."""
    strokes = (Stroke(tuple((t, p) for t, p in s["points"]), s["keep_fine"]) for s in data.get("hand", ()))
    return Gesture(**{**data, "hand": tuple(strokes)})


def change_to_data(change: ContentChange) -> dict[str, Any]:
    """A change as plain data: id to [before, after]."""
    return {note_id: [edited_to_data(before), edited_to_data(after)] for note_id, (before, after) in change.items()}


def change_from_data(data: dict[str, Any]) -> ContentChange:
    """Inverse of `change_to_data`."""
    return {note_id: (edited_from_data(pair[0]), edited_from_data(pair[1])) for note_id, pair in data.items()}


def analysis_document(analysis: Analysis) -> dict[str, Any]:
    """The document that `glass-thread analyse --json` writes."""
    midi = [None if np.isnan(value) else round(float(value), 4) for value in analysis.contour.midi]
    tonic = analysis.keys[0] if analysis.keys else None
    candidates = [{"tonic": pitch_name(60 + k.tonic)[:-1], "scale": k.scale, "confidence": round(k.confidence, 4)}
                  for k in analysis.keys]  # fmt: skip
    return {
        "format": ANALYSIS_FORMAT,
        "version": VERSION,
        "sample_rate": analysis.sample_rate,
        "duration_s": analysis.duration_s,
        "f0": {
            "hop_s": analysis.contour.hop_s,
            "start_s": 0.0,
            "midi": midi,
            "confidence": [round(float(c), 3) for c in analysis.contour.confidence],
        },
        "notes": [note_to_data(note) for note in analysis.notes],
        "air": [asdict(event) for event in analysis.air],
        "phrases": [asdict(phrase) for phrase in analysis.phrases],
        "key": {
            "tonic": candidates[0]["tonic"] if tonic else None,
            "scale": tonic.scale if tonic else None,
            "confidence": tonic.confidence if tonic else 0.0,
            "candidates": candidates,
        },
        "reference_hz": analysis.reference_hz,
        "polyphonic": analysis.polyphonic,
    }


def contour_csv(contour: Contour) -> str:
    """CSV with the columns time_s, midi, confidence; midi is empty where unvoiced."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("time_s", "midi", "confidence"))
    for time, midi, confidence in zip(contour.times, contour.midi, contour.confidence, strict=True):
        writer.writerow((f"{time:.3f}", "" if np.isnan(midi) else f"{midi:.4f}", f"{confidence:.3f}"))
    return out.getvalue()


def read_curve(path: Path, contour: Contour) -> Floats:
    """Targets from a CSV with the columns time_s, target_midi, on the grid of `contour`; NaN where none is near."""
    try:
        with path.open(newline="") as file:
            rows = [(float(r["time_s"]), float(r["target_midi"] or "nan")) for r in csv.DictReader(file)]
    except (OSError, KeyError, ValueError, UnicodeDecodeError) as error:
        raise ParameterError(f"{path.name} is not a curve: it needs the columns time_s,target_midi.") from error
    table = np.array(rows, dtype=np.float64).reshape(-1, 2)
    if len(table) < 2 or not np.isfinite(table[:, 0]).all() or (np.diff(table[:, 0]) <= 0).any():
        raise ParameterError(f"{path.name} is not a curve: times must rise from row to row, with two rows at least.")
    known = table[np.isfinite(table[:, 1]) & (table[:, 1] > 0)]
    if len(known) == 0 or known[:, 1].max() > 127:
        raise ParameterError(f"{path.name} has no usable target; MIDI pitches from 1 to 127 are expected.")
    wanted = np.interp(contour.times, known[:, 0], known[:, 1])
    spacing = max(float(np.median(np.diff(table[:, 0]))) * 1.5, contour.hop_s * 1.5)
    place = np.clip(np.searchsorted(known[:, 0], contour.times), 1, len(known) - 1) if len(known) > 1 else None
    if place is None:
        return np.where(np.abs(contour.times - known[0, 0]) <= spacing, wanted, np.nan)
    gap = np.minimum(np.abs(contour.times - known[place - 1, 0]), np.abs(known[place, 0] - contour.times))
    return np.where(gap <= spacing, wanted, np.nan)


def read_edits(path: Path) -> list[dict[str, Any]]:
    """Operations of an edit document (JSON)."""
    try:
        data = json.loads(path.read_text())
    except (OSError, ValueError) as error:
        raise ParameterError(f"{path.name} is not a JSON document.") from error
    if not isinstance(data, dict) or data.get("format") != EDITS_FORMAT or not isinstance(data.get("operations"), list):
        raise ParameterError(f"{path.name} is not an edit document: “format” must be “{EDITS_FORMAT}”.")
    if not all(isinstance(operation, dict) for operation in data["operations"]):
        raise ParameterError(f"{path.name} has an operation that is not an object.")
    return data["operations"]
