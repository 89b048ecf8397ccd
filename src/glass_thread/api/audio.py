"""Sound: spans for playback, and prints."""

from __future__ import annotations

from typing import Any

import numpy as np
from apiflask import APIBlueprint
from flask import Response, send_file

from ..core.signal.errors import NotFoundError, ParameterError
from ..services.documents import load_document
from ..services.loudness import track_loudness
from ..services.print import request_print, summarise, usual_depth
from ..services.tuned_sound import of_air
from .context import sound, workspace
from .schemas import AudioQuery, LoudnessesOut, LoudnessQuery, PrintIn, PrintSummaryOut, TaskOut

audio_routes = APIBlueprint("audio", __name__, tag="Sound")
LONGEST_SPAN_S = 30


@audio_routes.get("/tracks/<track_id>/audio")
@audio_routes.input(AudioQuery, location="query")
@audio_routes.doc(responses={200: "float32[channels, n] little-endian; X-Sample-Rate, X-Channels, X-Revision"})
def get_audio(track_id: str, query_data: dict[str, Any]) -> Response:
    """Samples [begin, end): as sung, tuned, its air or notes alone, the difference, preview, or at `step` (marked)."""
    begin, end, kind = query_data["begin"], query_data["end"], query_data["kind"]
    track = workspace().tracks.get(track_id)
    if end <= begin or end - begin > LONGEST_SPAN_S * track.sample_rate:
        raise ParameterError(f"A span of sound is up to {LONGEST_SPAN_S} seconds and ends after it begins.")
    source = sound().source(track.audio_hash).audio[:, begin:end]
    if kind == "sung" or track.role == "backing":
        samples = np.asarray(source)
    else:
        document = load_document(workspace(), track_id, after_step=query_data["step"] if kind == "marked" else None)
        track = document.track
        tried = sound().preview(track_id) if kind == "preview" else None
        plan = sound().plan(document, tried)
        samples = sound().span(document, plan, begin, end)
        if kind == "difference":
            samples = samples - source
        elif kind in ("air", "notes"):
            samples = of_air(samples, document.content, plan, track.sample_rate, begin, keep=kind == "air")
    response = Response(samples.astype("<f4").tobytes(), mimetype="application/octet-stream")
    response.headers["X-Sample-Rate"] = str(track.sample_rate)
    response.headers["X-Channels"] = str(track.channels)
    response.headers["X-Revision"] = str(track.revision)
    return response


@audio_routes.get("/tracks/<track_id>/print-summary")
@audio_routes.output(PrintSummaryOut)
def get_print_summary(track_id: str) -> dict[str, Any]:
    """Share of untouched samples and peak of the track as it stands."""
    document = load_document(workspace(), track_id)
    summary = summarise(sound(), document)
    info = sound().source(document.track.audio_hash).info
    return {"untouched_share": summary.untouched_share, "peak_dbfs": summary.peak_dbfs,
            "notes_changed": summary.notes_changed, "air_changed": summary.air_changed,
            "usual_bits": usual_depth(info)}  # fmt: skip


@audio_routes.get("/tracks/<track_id>/loudness")
@audio_routes.input(LoudnessQuery, location="query")
@audio_routes.output(LoudnessesOut)
def get_loudness(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """Integrated loudness and true peak (ITU-R BS.1770-4) of the track or a stretch, as sung and tuned."""
    sung, tuned = track_loudness(sound(), load_document(workspace(), track_id), **query_data)
    return {"sung": sung, "tuned": tuned}


@audio_routes.post("/tracks/<track_id>/prints")
@audio_routes.input(PrintIn)
@audio_routes.output(TaskOut, status_code=202)
def post_print(track_id: str, json_data: dict[str, Any]) -> Any:
    """Print the track as it stands; the file is ready when the task is done."""
    return request_print(workspace(), track_id, json_data)


@audio_routes.get("/prints/<task_id>/file")
@audio_routes.doc(responses={200: "The printed file"})
def get_print(task_id: str) -> Response:
    """Download a finished print."""
    task = workspace().tasks.get(task_id)
    if task.kind != "print" or task.state != "done":
        raise NotFoundError("There is no finished print of that name.")
    path = workspace().audio.print_path(task.result["file"])
    return send_file(path, as_attachment=True, download_name=task.result["shown_name"])
