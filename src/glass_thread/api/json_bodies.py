"""JSON in and out: what no reader could work with is refused at the door, and answers are never not JSON."""

from __future__ import annotations

import json
import math
from typing import Any

from apiflask import APIFlask
from flask import abort, request
from flask.json.provider import DefaultJSONProvider

from ..core.signal.errors import ParameterError

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
            body = json.loads(request.get_data(cache=True))
        except (ValueError, RecursionError):
            abort(400, "The request is not JSON that can be read.")
        problem = _problem(body, ())
        if problem:
            raise ParameterError(problem)


def _problem(value: object, path: tuple[str, ...]) -> str | None:
    """What no reader could work with in a value, in a sentence that names the field; None when all is well."""
    if len(path) > DEEPEST:
        return f"{_named(path[:3])} is nested too deeply."
    if isinstance(value, str):
        fine = not any("\ud800" <= letter <= "\udfff" for letter in value)
        return None if fine else f"{_named(path)} holds half a character (a lone surrogate)."
    if isinstance(value, float) and not math.isfinite(value):
        return f"{_named(path)} must be a finite number."
    if isinstance(value, int) and not isinstance(value, bool) and abs(value) >= LARGEST_WHOLE:
        return f"{_named(path)} is too large a number."
    if isinstance(value, dict):
        inside = [(key, one) for key, one in value.items()]
        named = next((found for key, _ in inside if (found := _problem(key, (*path, "a name")))), None)
        return named or next((found for key, one in inside if (found := _problem(one, (*path, key)))), None)
    if isinstance(value, list):
        return next((found for i, one in enumerate(value) if (found := _problem(one, (*path, str(i))))), None)
    return None


def _named(path: tuple[str, ...]) -> str:
    return f"“{'.'.join(part[:40] for part in path)}”" if path else "The request"
