"""JSON in and out: what no reader could work with is refused at the door, and answers are never not JSON."""

from __future__ import annotations

import json
import math
from typing import Any

from apiflask import APIFlask
from flask import abort, request
from flask.json.provider import DefaultJSONProvider

DEEPEST = 32
LARGEST_WHOLE = 2**63


class Json(DefaultJSONProvider):
    """Answers in UTF-8 without spaces; a number that JSON does not have is a fault, not an answer."""

    ensure_ascii = False
    compact = True
    sort_keys = False

    def dumps(self, obj: Any, **settings: Any) -> str:
        """As JSON text."""
        return super().dumps(obj, allow_nan=False, **settings)


def register_json_check(app: APIFlask) -> None:
    """Refuse JSON bodies that are broken, nested without end, or hold text or numbers nobody can store."""

    @app.before_request
    def check() -> None:
        if not request.is_json:
            return
        try:
            problem = _problem(json.loads(request.get_data(cache=True)), 0)
        except (ValueError, RecursionError):
            problem = "The request is not JSON that can be read."
        if problem:
            abort(400 if "JSON" in problem else 422, problem)


def _problem(value: object, depth: int) -> str | None:
    if depth > DEEPEST:
        return "The request is nested too deeply."
    if isinstance(value, str):
        fine = not any("\ud800" <= letter <= "\udfff" for letter in value)
        return None if fine else "A text in the request holds half a character (a lone surrogate)."
    if isinstance(value, float) and not math.isfinite(value):
        return "A number in the request is not finite."
    if isinstance(value, int) and not isinstance(value, bool) and abs(value) >= LARGEST_WHOLE:
        return "A number in the request is too large."
    inner: list[object] = []
    if isinstance(value, dict):
        inner = [*value.keys(), *value.values()]
    elif isinstance(value, list):
        inner = value
    return next((found for one in inner if (found := _problem(one, depth + 1))), None)
