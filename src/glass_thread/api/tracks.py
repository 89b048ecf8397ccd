"""Tracks: bring in, change, remove, and what was found in them."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np
from apiflask import APIBlueprint
from flask import Response

from ..core.analysis.air import air_spectrum
from ..core.signal.types import HOP_S
from ..services.documents import load_document
from ..services.import_audio import import_audio
from .context import sound, workspace
from .schemas import AnalysisOut, CurveQuery, ImportOut, TrackChangeIn, TrackIn, TrackOut

track_routes = APIBlueprint("tracks", __name__, tag="Tracks")


def binary(*arrays: np.ndarray) -> Response:
    """Little-endian arrays one after the other."""
    return Response(b"".join(a.tobytes() for a in arrays), mimetype="application/octet-stream")


@track_routes.post("/songs/<song_id>/tracks")
@track_routes.input(TrackIn, location="form_and_files")
@track_routes.output(ImportOut, status_code=202)
def post_track(song_id: str, form_and_files_data: dict[str, Any]) -> dict[str, Any]:
    """Bring in a recording; it is analysed in the background."""
    file = form_and_files_data["file"]
    track, task = import_audio(
        workspace(), song_id, file.stream, file.filename or "", role=form_and_files_data["role"],
        offset_s=form_and_files_data["offset_s"],
    )  # fmt: skip
    return {"track": track, "task": task}


@track_routes.patch("/tracks/<track_id>")
@track_routes.input(TrackChangeIn)
@track_routes.output(TrackOut)
def patch_track(track_id: str, json_data: dict[str, Any]) -> Any:
    """Change name, role, place on the timeline, level or mute."""
    workspace().tracks.get(track_id)
    return workspace().tracks.change(track_id, json_data) if json_data else workspace().tracks.get(track_id)


@track_routes.delete("/tracks/<track_id>")
@track_routes.output({}, status_code=204)
def delete_track(track_id: str) -> str:
    """Remove a track with its edits; the source file stays in the data folder."""
    workspace().tracks.get(track_id)
    workspace().tracks.remove(track_id)
    return ""


@track_routes.get("/tracks/<track_id>/analysis")
@track_routes.output(AnalysisOut)
def get_analysis(track_id: str) -> dict[str, Any]:
    """What was found, without the curve."""
    analysis = load_document(workspace(), track_id).analysis
    return {
        "duration_s": analysis.duration_s, "hop_s": HOP_S, "frames": len(analysis.contour.midi),
        "reference_hz": analysis.reference_hz, "polyphonic": analysis.polyphonic,
        "phrases": [asdict(p) for p in analysis.phrases],
        "keys": [asdict(key) for key in analysis.keys],
    }  # fmt: skip


@track_routes.get("/tracks/<track_id>/curve")
@track_routes.doc(responses={200: "float32[n] MIDI pitch (NaN unvoiced), float32[n] level dBFS, uint8[n] confidence %"})
def get_curve(track_id: str) -> Response:
    """The sung curve in compact binary form, one value a frame of 5 ms."""
    analysis = load_document(workspace(), track_id).analysis
    return binary(
        analysis.contour.midi.astype("<f4"), analysis.level_db.astype("<f4"),
        np.round(100 * analysis.contour.confidence).astype(np.uint8),
    )  # fmt: skip


@track_routes.get("/tracks/<track_id>/tuned-curve")
@track_routes.input(CurveQuery, location="query")
@track_routes.doc(
    responses={200: "float32[n] tuned MIDI pitch, float32[n] level change in dB, float32[n] sung MIDI pitch"}
)
def get_tuned_curve(track_id: str, query_data: dict[str, Any]) -> Response:
    """The tuned curve in compact binary form, or that of the preview; and the sung one as its notes are read."""
    document = load_document(workspace(), track_id)
    plan = sound().plan(document, sound().preview(track_id) if query_data["preview"] else None)
    tuned = plan.contour.midi + plan.correction
    return binary(*(values.astype("<f4") for values in (tuned, plan.level_db, plan.contour.midi)))


@track_routes.get("/tracks/<track_id>/spectrum")
@track_routes.doc(responses={200: "uint8[n, 24] half decibels over -120 dBFS in mel bands from 80 Hz to 16 kHz"})
def get_spectrum(track_id: str) -> Response:
    """Energy of the source over time and frequency, one row a frame of 5 ms."""
    analysis = load_document(workspace(), track_id).analysis
    source = sound().source(workspace().tracks.get(track_id).audio_hash)
    mono = source.audio.mean(axis=0)
    return binary(air_spectrum(mono, source.info.sample_rate, len(analysis.contour.midi)))


@track_routes.get("/tracks/<track_id>/waveform")
@track_routes.doc(responses={200: "int8[n, 2] lowest and highest sample of each 5 ms, full scale 127"})
def get_waveform(track_id: str) -> Response:
    """The source's outline."""
    source = sound().source(workspace().tracks.get(track_id).audio_hash)
    mono = source.audio[0]
    starts = np.minimum((np.arange(int(len(mono) / source.info.sample_rate / HOP_S) + 1)
                         * HOP_S * source.info.sample_rate).astype(np.int64), len(mono) - 1)  # fmt: skip
    low, high = np.minimum.reduceat(mono, starts), np.maximum.reduceat(mono, starts)
    return binary(np.clip(np.round(127 * np.stack((low, high), axis=1)), -127, 127).astype(np.int8))
