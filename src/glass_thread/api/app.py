"""The application factory: wiring only."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from pathlib import Path

from apiflask import APIFlask
from flask import Response, send_from_directory

from .. import __version__
from ..services.access.codes import Codes
from ..services.access.guesses import Guesses
from ..services.folder.workspace import Workspace
from ..services.history.previews import Previews
from ..services.session.desk import Desk
from ..services.session.news import News
from ..services.sound.marks_ahead import MarksAhead
from ..services.sound.turns import Turns
from ..services.work.foreman import Foreman
from ..store.files.audio_files import LARGEST_UPLOAD
from .archives import archive_routes
from .audio import audio_routes
from .comps import comp_routes
from .door.gate import PREFIX, Gate
from .door.security import register_security
from .door.sign_in import sign_in_routes
from .edits import edit_routes
from .errors import register_errors
from .handoff import handoff_routes
from .interchange import interchange_routes
from .json_bodies import Json, register_json_check
from .keys import key_routes
from .lyrics import lyric_routes
from .news import news_routes
from .operation_schemas import describe_operations
from .report import report_routes
from .song_steps import song_step_routes
from .songs import song_routes
from .stack import stack_routes
from .tasks import task_routes
from .tracks import track_routes
from .tune_passes import pass_routes
from .versions import version_routes
from .work import work_routes

LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})
FRONT_END = Path(__file__).resolve().parent.parent / "web"


@dataclass(frozen=True)
class Settings:
    """Hosts answered to, the token that workers show (none are let in without), the folder of the built front end, and
    the sign-in codes, where others than this machine reach the server."""

    allowed_hosts: frozenset[str] = LOOPBACK
    worker_token: str = ""
    front_end: Path = FRONT_END
    codes: Codes | None = None


def create_app(workspace: Workspace, settings: Settings | None = None) -> APIFlask:
    """Build the application over one workspace."""
    app = with_routes(settings or Settings())
    serve(app, workspace)
    return app


def serve(app: APIFlask, workspace: Workspace) -> None:
    """Have an application answer from a workspace, and from no other any more."""
    app.extensions["desk"] = Desk(workspace)
    app.extensions["foreman"] = Foreman(app.extensions["desk"])
    app.extensions["turns"] = Turns()
    app.extensions["marks_ahead"] = MarksAhead(app.extensions["desk"].sound, app.extensions["turns"])
    app.extensions["news"] = News(workspace)
    app.extensions["previews"] = Previews(app.extensions["desk"])


def with_routes(chosen: Settings) -> APIFlask:
    """An application that has no workspace to serve yet; laying the routes is most of the work."""
    app = APIFlask("glass_thread", title="Glass Thread", version=__version__, spec_path=f"{PREFIX}/openapi.json",
                   docs_path=None, static_folder=None)  # fmt: skip
    app.config["MAX_CONTENT_LENGTH"] = LARGEST_UPLOAD + (1 << 20)
    app.config["VALIDATION_ERROR_STATUS_CODE"] = 422
    gate = Gate(chosen.allowed_hosts, chosen.worker_token, LARGEST_UPLOAD + (1 << 20), chosen.codes)
    app.extensions["gate"], app.extensions["guesses"], app.extensions["packing"] = gate, Guesses(), threading.Lock()
    app.json = Json(app)
    register_errors(app)
    register_security(app, gate)
    register_json_check(app)
    app.spec_processor(describe_operations)
    for routes in (
        song_routes, song_step_routes, key_routes, track_routes, edit_routes, version_routes, comp_routes, audio_routes,
        task_routes, news_routes, pass_routes, interchange_routes, handoff_routes, report_routes, stack_routes,
        work_routes, archive_routes, sign_in_routes, lyric_routes,
    ):  # fmt: skip
        app.register_blueprint(routes, url_prefix=PREFIX)
    _serve_front_end(app, chosen.front_end)
    return app


def _serve_front_end(app: APIFlask, folder: Path) -> None:
    @app.get("/")
    @app.doc(hide=True)
    def page() -> Response:
        response = send_from_directory(folder, "index.html")
        response.headers["Cache-Control"] = "no-cache"
        return response

    @app.get("/assets/<path:name>")
    @app.doc(hide=True)
    def asset(name: str) -> Response:
        response = send_from_directory(folder / "assets", name)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response
