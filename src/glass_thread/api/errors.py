"""The only place where exception classes meet status codes."""

from __future__ import annotations

import traceback
from typing import Any

from apiflask import APIFlask, HTTPError
from flask import Response, jsonify
from werkzeug.exceptions import HTTPException

from ..core.signal.errors import (
    AudioError,
    ConflictError,
    CutOffError,
    GlassThreadError,
    NotFoundError,
    ParameterError,
    StaleEditError,
    TooLargeError,
)
from ..services.folder.faults import record_fault
from ..store.files.disk import is_full, storage_sentence
from .context import workspace
from .door.echo import without_echo

STATUS: dict[type[GlassThreadError], int] = {
    NotFoundError: 404,
    ConflictError: 409,
    StaleEditError: 409,
    TooLargeError: 413,
    AudioError: 422,
    ParameterError: 422,
}


def status_of(error: GlassThreadError) -> int:
    """HTTP status of an expected failure."""
    return next((code for kind, code in STATUS.items() if isinstance(error, kind)), 400)


def register_errors(app: APIFlask) -> None:
    """Every failure leaves as ``{"message": ...}`` with its status."""

    @app.errorhandler(GlassThreadError)
    def expected(error: GlassThreadError) -> tuple[Response, int]:
        body: dict[str, Any] = {"message": without_echo(str(error))}
        if isinstance(error, StaleEditError):
            body["head"] = error.current
        if isinstance(error, CutOffError):
            body["reason"] = "cut off"
        return jsonify(body), status_of(error)

    @app.errorhandler(OSError)
    def disk(error: OSError) -> tuple[Response, int]:
        return jsonify({"message": storage_sentence(error)}), 507 if is_full(error) else 503

    @app.error_processor
    def schema(error: HTTPError) -> tuple[dict[str, Any], int, Any]:
        return {"message": without_echo(_first_problem(error))}, error.status_code, error.headers

    @app.errorhandler(HTTPException)  # after the processor, which takes these over and drops their sentences
    def plain(error: HTTPException) -> tuple[Response, int, dict[str, str]]:
        headers = {name: value for name, value in error.get_headers() if name.lower() != "content-type"}
        fault = getattr(error, "original_exception", None)
        said = record_fault(workspace().folder, _trace(fault)) if fault else error.description or error.name
        return jsonify({"message": without_echo(said)}), error.code or 500, headers


def _trace(fault: BaseException) -> str:
    return "".join(traceback.format_exception(fault))


def _first_problem(error: HTTPError) -> str:
    detail = error.detail
    path: list[str] = []
    while isinstance(detail, dict) and detail:
        name, detail = next(iter(detail.items()))
        path.append(str(name))
    text = detail[0] if isinstance(detail, list) and detail else error.message
    return f"{path[-1]}: {text}" if len(path) > 1 else str(text)
