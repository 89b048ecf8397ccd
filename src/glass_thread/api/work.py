"""What workers say and fetch; the gate lets only them in."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint
from flask import Response, request, send_file

from .. import __version__
from ..core.analysis.analysis import ANALYSIS_VERSION
from ..core.signal.errors import AudioError, CancelledError, NotFoundError
from ..services.work.jobs import Outcome
from ..services.work.server_link import libraries
from ..store.files.audio_files import content_name
from .context import foreman, workspace
from .schemas.work import DoneIn, EndedIn, GoOnOut, ProgressIn, WorkerIn, WorkOut

work_routes = APIBlueprint("work", __name__, tag="Work")


def _content(name: str) -> str:
    try:
        return content_name(name)
    except AudioError as error:
        raise NotFoundError("There is no such content.") from error


def _asked_for(name: str) -> str:
    """Content that a job which is being worked on names; a worker has no business with any other."""
    if not foreman().is_named(_content(name)):
        raise NotFoundError("No job that is being worked on needs such content.")
    return name


@work_routes.get("/work")
@work_routes.output(WorkOut)
def get_work() -> dict[str, Any]:
    """Which program this is, so that a worker of another one does not begin."""
    return {"version": __version__, "analysis_version": str(ANALYSIS_VERSION), "libraries": libraries()}


@work_routes.post("/work/<task_id>/begin")
@work_routes.input(WorkerIn)
@work_routes.output(GoOnOut)
def post_begin(task_id: str, json_data: dict[str, Any]) -> dict[str, bool]:
    """Take a task on."""
    return {"go_on": foreman().begin(task_id, json_data["worker"])}


@work_routes.post("/work/<task_id>/progress")
@work_routes.input(ProgressIn)
@work_routes.output(GoOnOut)
def post_progress(task_id: str, json_data: dict[str, Any]) -> dict[str, bool]:
    """Say how far a task is."""
    try:
        foreman().progress(task_id, json_data["worker"], json_data["stage"], json_data["share"])
    except CancelledError:
        return {"go_on": False}
    return {"go_on": True}


@work_routes.post("/work/<task_id>/done")
@work_routes.input(DoneIn)
@work_routes.output(GoOnOut)
def post_done(task_id: str, json_data: dict[str, Any]) -> dict[str, bool]:
    """Hand in what came of a task."""
    file = _content(json_data["file"]) if json_data["file"] else None
    foreman().done(task_id, json_data["worker"], Outcome(json_data["values"], file))
    return {"go_on": False}


@work_routes.post("/work/<task_id>/ended")
@work_routes.input(EndedIn)
@work_routes.output(GoOnOut)
def post_ended(task_id: str, json_data: dict[str, Any]) -> dict[str, bool]:
    """Say that a task failed or was stopped."""
    foreman().ended(task_id, **json_data)
    return {"go_on": False}


@work_routes.get("/work/audio/<name>")
@work_routes.doc(responses={200: "The recording's file"})
def get_audio(name: str) -> Response:
    """A recording by the hash of its bytes."""
    return send_file(workspace().audio.source(_asked_for(name)), mimetype="application/octet-stream")


@work_routes.get("/work/analysis/<name>")
@work_routes.doc(responses={200: "The file of a finished analysis"})
def get_analysis_file(name: str) -> Response:
    """A finished analysis by its id."""
    path = workspace().analyses.path(_asked_for(name))
    if not path.is_file():
        raise NotFoundError("There is no such analysis.")
    return send_file(path, mimetype="application/octet-stream")


@work_routes.put("/work/results/<name>")
@work_routes.output({}, status_code=204)
def put_result(name: str) -> str:
    """Leave what was made, under the hash of its bytes, before its task is handed in."""
    incoming = workspace().audio.receive(request.stream)
    try:
        workspace().audio.keep_result(incoming, _content(name))
    finally:
        incoming.unlink(missing_ok=True)
    return ""
