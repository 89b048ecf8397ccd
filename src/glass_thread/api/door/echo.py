"""Answers that do not say back what was sent."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from flask import request

LONGEST_ECHO, LONGEST_ANSWER = 200, 2000
_LEFT = 60  # characters by which somebody knows what is meant


def without_echo(message: str) -> str:
    """A message in which whatever was sent stands shortened when it is longer than 200 characters."""
    if len(message) <= LONGEST_ECHO:
        return message
    for sent in sorted(_sent(), key=len, reverse=True):
        if len(sent) > _LEFT and sent in message:
            message = message.replace(sent, f"{sent[:_LEFT]}…")
    return message if len(message) <= LONGEST_ANSWER else f"{message[:LONGEST_ECHO]}…"


def _sent() -> Iterator[str]:
    """Every text of the present request: parts of its path, names and values of its query, form, files and JSON."""
    yield from request.path.split("/")
    for values in (request.args, request.form):
        for name, value in values.items(multi=True):
            yield from (name, value)
    for name, file in request.files.items(multi=True):
        yield from (name, file.filename or "")
    if request.is_json:
        try:
            yield from _texts(json.loads(request.get_data(cache=True)))
        except (ValueError, RecursionError):
            return


def _texts(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for name, inner in value.items():
            yield name
            yield from _texts(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from _texts(inner)
    elif isinstance(value, int) and not isinstance(value, bool):
        yield str(value) if abs(value) < 10**4000 else ""
