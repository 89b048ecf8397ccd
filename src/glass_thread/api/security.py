"""Host and Origin checks and the headers every response carries."""

from __future__ import annotations

from urllib.parse import urlsplit

from apiflask import APIFlask
from flask import Response, abort, request

LARGEST_JSON = 4 << 20
POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; font-src 'self'; "
    "img-src 'self' data:; connect-src 'self'; media-src 'self' blob:; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)


def _host() -> str:
    """Name or address that the request was sent to, "" for one that cannot be read."""
    try:
        return urlsplit(f"//{request.host}").hostname or ""
    except ValueError:
        return ""


def register_security(app: APIFlask, allowed_hosts: frozenset[str]) -> None:
    """Refuse requests for other hosts (DNS rebinding) and changes that another origin asks for.

    A page elsewhere can make a browser send forms without asking, but neither JSON nor an Origin of its choosing
    (Fetch standard, "CORS-safelisted request-header"): so a change either names our origin or has a JSON body.
    """

    @app.before_request
    def check() -> None:
        if _host() not in allowed_hosts:
            abort(403, "This address is not one the program answers to.")
        if request.method in ("GET", "HEAD", "OPTIONS"):
            return
        site = request.headers.get("Sec-Fetch-Site", "same-origin")
        origin = request.headers.get("Origin")
        if site not in ("same-origin", "none") or origin not in (None, request.host_url.rstrip("/")):
            abort(403, "Changes are only taken from the program's own page.")
        if origin is None and not request.is_json:
            abort(415, "A change needs a JSON body (Content-Type: application/json) or the program's own Origin.")
        if request.is_json and (request.content_length or 0) > LARGEST_JSON:
            abort(413, "The request is larger than the 4 MB of JSON that are taken.")

    @app.after_request
    def protect(response: Response) -> Response:
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
