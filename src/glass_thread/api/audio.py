"""Sound: spans for playback, and prints."""

from __future__ import annotations

from dataclasses import asdict
from functools import partial
from typing import Any

import numpy as np
from apiflask import APIBlueprint
from flask import Response, request, send_file

from ..core.signal.errors import CancelledError, NotFoundError, ParameterError
from ..core.signal.types import Floats
from ..core.synthesis.placing import Read
from ..services.folder.names import file_name
from ..services.history.versions import as_heard
from ..services.prints.keeping import hand_over_again
from ..services.prints.mixing import request_mix
from ..services.prints.print_writer import usual_depth
from ..services.prints.printing import (
    list_prints,
    print_file,
    print_summary,
    remove_print,
    request_print,
    request_prints,
)
from ..services.report.loudness import track_loudness
from ..services.session.sounding import melody_tone
from ..services.sound.recordings import CachedRecording
from ..services.sound.sound import of_air
from ..services.sound.take import Take
from ..store.records import Track
from .context import desk, previews, turns, workspace
from .schemas.queries import StepQuery
from .schemas.songs import TaskOut
from .schemas.sound import (
    PRINT_VALUES,
    AudioQuery,
    LoudnessesOut,
    LoudnessQuery,
    PrintIn,
    PrintListOut,
    PrintsIn,
    PrintSummaryOut,
    PrintTasksOut,
)

audio_routes = APIBlueprint("audio", __name__, tag="Sound")
LONGEST_SPAN_S = 30
_STEP_S = 0.25  # of sound that is loaded ahead, after which others may go first


@audio_routes.get("/tracks/<track_id>/audio")
@audio_routes.input(AudioQuery, location="query")
@audio_routes.doc(responses={200: "float32[channels, n] little-endian; X-Sample-Rate, X-Channels"})
def get_audio(track_id: str, query_data: dict[str, Any]) -> Response:
    """Samples [begin, end): as sung, tuned, air or notes alone, the difference, or its melody as a tone, at a step."""
    begin, end = query_data["begin"], query_data["end"]
    track = workspace().tracks.get(track_id)
    if end <= begin or end - begin > LONGEST_SPAN_S * track.sample_rate:
        raise ParameterError(f"A span of sound is up to {LONGEST_SPAN_S} seconds and ends after it begins.")
    read = _sound_of(track, query_data)
    if query_data["ahead"]:
        samples = _bit_by_bit(read, begin, end, round(_STEP_S * track.sample_rate))
    else:
        with turns().first():
            samples = read(begin, end)
    response = Response(samples.astype("<f4").tobytes(), mimetype="application/octet-stream")
    response.headers["X-Sample-Rate"] = str(track.sample_rate)
    response.headers["X-Channels"] = str(track.channels)
    return response


def _bit_by_bit(read: Read, begin: int, end: int, step: int) -> Floats:
    parts = []
    gone = request.environ.get("waitress.client_disconnected")
    for low in range(begin, end, step):
        turns().give_way()
        if gone is not None and gone():
            raise CancelledError("Nobody waits for this sound any more.")
        parts.append(read(low, min(low + step, end)))
    return np.concatenate(parts, axis=1)


def _sound_of(track: Track, wanted: dict[str, Any]) -> Read:
    """What gives samples [begin, end) of a kind of sound."""
    kind = wanted["kind"]
    source = desk().sound.source(track.audio_hash)
    if kind == "sung" or track.role == "backing":
        return lambda begin, end: source.read(min(begin, source.frames), min(end, source.frames))
    if wanted["preview"] is not None:
        standing = previews().standing(track.id, wanted["preview"])
    else:
        standing = desk().at(track.id, wanted["step"])
    if kind == "melody":
        return lambda begin, end: np.repeat(melody_tone(desk(), standing, begin, end), track.channels, axis=0)
    if kind == "difference":
        return partial(_difference, desk().take(standing), source)
    take = desk().take(standing)
    if kind in ("air", "notes"):
        plan = desk().plan(standing)
        return lambda begin, end: of_air(take.span(begin, end), standing.content, plan, track.sample_rate, begin,
                                         keep=kind == "air")  # fmt: skip
    return take.span


def _difference(take: Take, source: CachedRecording, begin: int, end: int) -> Floats:
    samples = take.span(begin, end)
    last = min(begin + samples.shape[1], source.frames)
    return samples[:, : max(0, last - begin)] - source.read(min(begin, last), last)


@audio_routes.get("/tracks/<track_id>/print-summary")
@audio_routes.input(StepQuery, location="query")
@audio_routes.output(PrintSummaryOut)
def get_print_summary(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """Share of untouched samples and peak of the track at a step."""
    summary, info = print_summary(desk(), desk().at(track_id, query_data["step"]))
    return {**asdict(summary), "usual_bits": usual_depth(info)}


@audio_routes.get("/tracks/<track_id>/loudness")
@audio_routes.input(LoudnessQuery, location="query")
@audio_routes.output(LoudnessesOut)
def get_loudness(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """Integrated loudness and true peak (ITU-R BS.1770-4) of the track or a stretch, as sung and tuned."""
    sung, tuned = track_loudness(desk(), desk().at(track_id, query_data.pop("step")), **query_data)
    return {"sung": sung, "tuned": tuned}


@audio_routes.post("/tracks/<track_id>/prints")
@audio_routes.input(PrintIn)
@audio_routes.output(TaskOut, status_code=202)
def post_print(track_id: str, json_data: dict[str, Any]) -> Any:
    """Print the track at a step; the file is ready when the task is done."""
    return request_print(desk(), track_id, json_data, step_id=json_data.pop("step"))


@audio_routes.post("/songs/<song_id>/prints")
@audio_routes.input(PrintsIn)
@audio_routes.output(PrintTasksOut, status_code=202)
def post_prints(song_id: str, json_data: dict[str, Any]) -> Any:
    """Print tracks of a song, all vocals when none is named, each as the stack has it; or a mix of all that sounds."""
    workspace().songs.get(song_id)
    if json_data.pop("mix"):
        return {"tasks": [request_mix(desk(), song_id, json_data)]}
    ready = [one for one in workspace().tracks.of_song(song_id) if one.ready and one.role != "backing"]
    named = json_data.pop("tracks") or [one.id for one in ready]
    if not {one.id for one in ready}.issuperset(named):
        raise ParameterError("A track that is to be printed is no vocal of this song, or not ready yet.")
    steps = [(track_id, as_heard(desk(), track_id).step_id) for track_id in dict.fromkeys(named)]
    return {"tasks": request_prints(desk(), steps, json_data)}


@audio_routes.get("/songs/<song_id>/prints")
@audio_routes.output(PrintListOut)
def get_prints(song_id: str) -> dict[str, Any]:
    """The finished prints of a song with what they were made from, newest first."""
    return {"prints": [
        {"id": one.made.id, "track_id": one.made.track_id, "created_at": one.made.created_at, "there": one.there,
         "handed_over": one.made.handed_over, "trouble": one.made.trouble,
         **{name: one.values.get(name) for name in PRINT_VALUES}}
        for one in list_prints(desk(), song_id)
    ]}  # fmt: skip


@audio_routes.get("/prints/<print_id>/file")
@audio_routes.doc(responses={200: "The printed file"})
def get_print(print_id: str) -> Response:
    """Download a finished print."""
    made = workspace().prints.get(print_id)
    path = print_file(desk(), made)
    if not path.is_file():
        raise NotFoundError("The print's file is gone; print again.")
    return send_file(path, as_attachment=True, download_name=file_name(made.shown_name))


@audio_routes.post("/prints/<print_id>/hand-over")
@audio_routes.output({}, status_code=204)
def post_hand_over(print_id: str) -> str:
    """Put a print that is there into the song's hand-off folder, where that failed before."""
    hand_over_again(desk(), print_id)
    return ""


@audio_routes.delete("/prints/<print_id>")
@audio_routes.output({}, status_code=204)
def delete_print(print_id: str) -> str:
    """Take a finished print away."""
    remove_print(desk(), print_id)
    return ""
