"""The HTTP server; what it refuses before the application sees it has the same JSON shape as every other failure."""

from __future__ import annotations

import json
import socket
from typing import Any

import waitress
from waitress.channel import HTTPChannel
from waitress.task import ErrorTask

from ..services.session.news import MOST_LISTENERS

THREADS = 8 + MOST_LISTENERS  # each that listens to news keeps one
LARGEST_BODY = 2**31 - 1
_SENTENCES = {
    400: "The request is not HTTP that can be read.",
    413: "The request is larger than what is taken in one go.",
    431: "The headers of the request are too large.",
    501: "The request is sent in a way that is not understood here.",
}


class _JsonErrorTask(ErrorTask):  # type: ignore[misc]
    def execute(self) -> None:
        error = self.request.error
        body = json.dumps({"message": _SENTENCES.get(error.code, f"{error.reason}.")}).encode()
        self.status = f"{error.code} {error.reason}"
        self.response_headers.append(("Content-Type", "application/json"))
        self.set_close_on_finish()
        self.content_length = len(body)
        self.write(body)


class _Channel(HTTPChannel):  # type: ignore[misc]
    error_task_class = _JsonErrorTask


def serve(app: Any, listener: socket.socket) -> None:
    """Answer on a bound socket until the process is told to end."""
    server = waitress.create_server(
        app,
        sockets=[listener],
        threads=THREADS,
        ident="glass-thread",
        max_request_body_size=LARGEST_BODY,
        channel_request_lookahead=1,  # so that an answer learns that nobody waits for it
    )
    server.channel_class = _Channel
    server.run()
