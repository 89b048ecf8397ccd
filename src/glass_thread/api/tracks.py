"""Tracks: bring in, change, remove, and what was found in them."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np
from apiflask import APIBlueprint
from flask import Response

from ..core.analysis.air import air_spectrum
from ..core.analysis.notes.cuts import judge_cuts
from ..core.signal.levels import is_band_limited
from ..core.signal.types import HOP_S
from ..core.song.spelling import key_title
from ..services.song.estimates.key_estimate import estimate_key
from ..services.song.import_audio import import_audio, placed_apart
from ..services.song.progress import progress_of
from ..services.song.removed import remove_track
from ..services.song.songs import change_track
from .content_data import CURVE_LAYOUT, curve_bytes
from .context import desk, previews, workspace
from .schemas.queries import StepQuery
from .schemas.songs import ProgressOut, TrackOut
from .schemas.tracks import AnalysisOut, CurveQuery, CutsOut, ImportOut, KeysOut, OutlineQuery, TrackChangeIn, TrackIn
from .songs import track_data

track_routes = APIBlueprint("tracks", __name__, tag="Tracks")


def binary(*arrays: np.ndarray) -> Response:
    """Little-endian arrays one after the other."""
    return Response(b"".join(a.tobytes() for a in arrays), mimetype="application/octet-stream")


@track_routes.post("/songs/<song_id>/tracks")
@track_routes.input(TrackIn, location="form_and_files")
@track_routes.output(ImportOut, status_code=202)
def post_track(song_id: str, form_and_files_data: dict[str, Any]) -> dict[str, Any]:
    """Bring in a recording; it is analysed in the background.

    A file that is cut off is refused with the reason “cut off”, unless it is to be taken `as_far` as it goes.
    """
    file = form_and_files_data.pop("file")
    track, task = import_audio(workspace(), song_id, file.stream, file.filename or "", **form_and_files_data)
    told = placed_apart(workspace().songs.get(song_id), track)
    return {"track": track_data(track), "task": task, "told": told}


@track_routes.patch("/tracks/<track_id>")
@track_routes.input(TrackChangeIn)
@track_routes.output(TrackOut)
def patch_track(track_id: str, json_data: dict[str, Any]) -> Any:
    """Change name, role, place on the timeline, level, mute, or which version or comp the stack has."""
    base = json_data.pop("base", None)
    return track_data(change_track(workspace(), track_id, json_data, base=base))


@track_routes.delete("/tracks/<track_id>")
@track_routes.output({}, status_code=204)
def delete_track(track_id: str) -> str:
    """Take a track out of its song; it can be brought back until what was removed is swept away."""
    remove_track(workspace(), track_id)
    return ""


@track_routes.get("/tracks/<track_id>/keys")
@track_routes.output(KeysOut)
def get_keys(track_id: str) -> Any:
    """Keys the track may be in, the most likely first, from its notes and the song's backing."""
    found = estimate_key(desk(), track_id)
    keys = [{**asdict(one), "title": key_title(one.tonic, one.scale)} for one in found.keys]
    return {**vars(found), "keys": keys}


@track_routes.get("/tracks/<track_id>/analysis")
@track_routes.output(AnalysisOut)
def get_analysis(track_id: str) -> dict[str, Any]:
    """What was found, without the curve."""
    analysis = desk().analysis(desk().track(track_id))
    return {
        "duration_s": analysis.duration_s, "hop_s": HOP_S, "frames": len(analysis.contour.midi),
        "polyphonic": analysis.polyphonic,
        "band_limited": is_band_limited(analysis.level_db, analysis.high_db),
        "phrases": [asdict(p) for p in analysis.phrases],
    }  # fmt: skip


@track_routes.get("/tracks/<track_id>/curves")
@track_routes.input(CurveQuery, location="query")
@track_routes.doc(responses={200: CURVE_LAYOUT})
def get_curves(track_id: str, query_data: dict[str, Any]) -> Response:
    """What is heard at a step, or of a preview, in compact binary form, one value a frame of 5 ms."""
    if query_data["preview"] is not None:
        standing = previews().standing(track_id, query_data["preview"])
    else:
        standing = desk().at(track_id, query_data["step"])
    part = slice(query_data["first"], query_data["last"])
    return Response(curve_bytes(standing, desk().plan(standing), part), mimetype="application/octet-stream")


@track_routes.get("/tracks/<track_id>/spectrum")
@track_routes.doc(responses={200: "uint8[n, 24] half decibels over -120 dBFS in mel bands from 80 Hz to 16 kHz"})
def get_spectrum(track_id: str) -> Response:
    """Energy of the source over time and frequency, one row a frame of 5 ms."""
    track = desk().track(track_id)
    n_frames = len(desk().analysis(track).contour.midi)
    return binary(air_spectrum(desk().sound.mono(track.audio_hash), track.sample_rate, n_frames))


@track_routes.get("/tracks/<track_id>/outline")
@track_routes.input(OutlineQuery, location="query")
@track_routes.doc(responses={200: "uint8[columns] highest level in each of equal parts of the track, full scale 127"})
def get_outline(track_id: str, query_data: dict[str, Any]) -> Response:
    """The whole track small, for lists."""
    peak = np.abs(desk().outline(workspace().tracks.get(track_id)).astype(np.int16)).max(axis=1)
    columns = min(query_data["columns"], len(peak))
    parts = np.linspace(0, len(peak), columns, endpoint=False).astype(int)
    response = binary(np.maximum.reduceat(peak, parts).astype(np.uint8))
    response.headers["Cache-Control"] = "private, max-age=86400"  # a recording never changes
    return response


@track_routes.get("/tracks/<track_id>/cuts")
@track_routes.input(StepQuery, location="query")
@track_routes.output(CutsOut)
def get_cuts(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """How sure each border between two notes that touch is, at a step."""
    standing = desk().at(track_id, query_data["step"])
    notes = [edited.note for edited in standing.content.notes.values()]
    return {"cuts": judge_cuts(notes, desk().plan(standing).contour.midi, standing.analysis.level_db)}


@track_routes.get("/tracks/<track_id>/progress")
@track_routes.output(ProgressOut)
def get_progress(track_id: str) -> Any:
    """Flags left, notes changed, how much is marked done, and when it was last worked on."""
    return progress_of(desk(), track_id)
