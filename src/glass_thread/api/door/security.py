"""The gate before every request, and the headers every response carries."""

from __future__ import annotations

import threading
from collections import Counter

from apiflask import APIFlask
from flask import Response, abort, g, request

from ...store.song_log import made_by
from .gate import Asked, Gate

MOST_AT_ONCE = 16  # of the 24 threads
NEWS = "news.get_news"  # which have a bound of their own
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; "
    "img-src 'self' data:; connect-src 'self'; media-src 'self' blob:; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)


class Crowd:
    """How many requests of each code are being answered; nobody's take all the threads there are."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._inside = Counter[str]()

    def enter(self, name: str) -> bool:
        """Let one more in; False when there are too many."""
        with self._lock:
            if self._inside[name] >= MOST_AT_ONCE:
                return False
            self._inside[name] += 1
            return True

    def leave(self, name: str) -> None:
        """One is answered."""
        with self._lock:
            self._inside[name] -= 1


def asked_now() -> Asked:
    """What the headers of the present request say."""
    return Asked(request.method, request.path, request.headers.get, request.scheme)


def register_security(app: APIFlask, gate: Gate) -> None:
    """Let in only what the gate does, say who makes the steps of a request, and protect what is answered."""

    crowd = Crowd()

    @app.before_request
    def check() -> None:
        asked = asked_now()
        refused = gate.refusal(asked)
        if refused is not None:
            abort(*refused)
        code = gate.holder(asked)
        made_by.set(code.name if code else "")
        if code is not None and request.endpoint != NEWS and not crowd.enter(code.name):
            abort(429, "Too much is asked for at once with this code; wait a moment.")
        g.entered = code.name if code is not None and request.endpoint != NEWS else None

    @app.teardown_request
    def leave(_error: BaseException | None) -> None:
        if g.get("entered") is not None:
            crowd.leave(g.pop("entered"))

    @app.after_request
    def protect(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
