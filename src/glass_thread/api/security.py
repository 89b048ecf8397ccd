"""Host and Origin checks and the headers every response carries."""

from __future__ import annotations

from urllib.parse import urlsplit

from apiflask import APIFlask
from flask import Response, abort, request

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; "
    "img-src 'self' data:; connect-src 'self'; media-src 'self' blob:; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)


def register_security(app: APIFlask, allowed_hosts: frozenset[str]) -> None:
    """Refuse requests for other hosts (DNS rebinding) and changes that another origin asks for."""

    @app.before_request
    def check() -> None:
        host = urlsplit(f"//{request.host}").hostname or ""
        if host not in allowed_hosts:
            abort(403, "This address is not one the program answers to.")
        origin = request.headers.get("Origin")
        if request.method not in ("GET", "HEAD", "OPTIONS") and origin:
            parts = urlsplit(origin)
            if parts.netloc != request.host:
                abort(403, "Changes are only taken from the program's own page.")

    @app.after_request
    def protect(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
