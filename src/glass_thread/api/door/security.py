"""The gate before every request, and the headers every response carries."""

from __future__ import annotations

from apiflask import APIFlask
from flask import Response, abort, request

from ...store.song_log import made_by
from .gate import Asked, Gate

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; "
    "img-src 'self' data:; connect-src 'self'; media-src 'self' blob:; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)


def asked_now() -> Asked:
    """What the headers of the present request say."""
    return Asked(request.method, request.path, request.headers.get, request.scheme)


def register_security(app: APIFlask, gate: Gate) -> None:
    """Let in only what the gate does, say who makes the steps of a request, and protect what is answered."""

    @app.before_request
    def check() -> None:
        asked = asked_now()
        refused = gate.refusal(asked)
        if refused is not None:
            abort(*refused)
        code = gate.holder(asked)
        made_by.set(code.name if code else "")

    @app.after_request
    def protect(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
