"""The HTTP server: what it refuses has the same JSON shape as every other failure, nothing is read of a request before
the gate has let it in, and whoever is too slow is let go."""

from __future__ import annotations

import json
import resource
import socket
import time
from http import HTTPStatus
from typing import Any
from weakref import WeakSet

import waitress
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer
from waitress.task import ErrorTask

from ...services.session.news import MOST_LISTENERS
from .gate import Asked, Gate

THREADS = 8 + MOST_LISTENERS  # each that listens to news keeps one
LARGEST_BODY = 2**40  # the gate has the real limit
MOST_CONNECTIONS = 4000
MOST_ON_THE_WAY = 8 << 30  # bytes of all bodies that are being received
HEADERS_S, BODY_S, BODY_BYTES_A_S, READING_S, IDLE_S = 15.0, 20.0, 20_000.0, 30.0, 60
_LARGE = 1 << 20
_LOOK_S = 3
_SENTENCES = {
    400: "The request is not HTTP that can be read.",
    413: "The request is larger than what is taken in one go.",
    431: "The headers of the request are too large.",
    501: "The request is sent in a way that is not understood here.",
}


class _NotLetIn:
    """An error as waitress has them."""

    def __init__(self, code: int, sentence: str) -> None:
        self.code, self.reason, self.body = code, HTTPStatus(code).phrase, sentence


class _JsonErrorTask(ErrorTask):  # type: ignore[misc]
    def execute(self) -> None:
        error = self.request.error
        said = error.body if isinstance(error, _NotLetIn) else _SENTENCES.get(error.code, f"{error.reason}.")
        body = json.dumps({"message": said}).encode()
        self.status = f"{error.code} {error.reason}"
        self.response_headers.append(("Content-Type", "application/json"))
        self.set_close_on_finish()
        self.content_length = len(body)
        self.write(body)


class _Parser(HTTPRequestParser):  # type: ignore[misc]
    """One request as it comes in."""

    def __init__(self, adj: Any, gate: Gate, on_the_way: WeakSet[_Parser]) -> None:
        super().__init__(adj)
        self.begun = time.monotonic()
        self._gate, self._on_the_way, self._looked_at = gate, on_the_way, False

    def received(self, data: bytes) -> int:
        """Take in what came; once the headers are whole, the gate decides whether there is more to take."""
        taken = int(super().received(data))
        if self.headers_finished and not self._looked_at and self.error is None:
            self._looked_at = True
            refused = (
                self._gate.refusal(Asked(self.command, self.path, self._header, self._scheme())) or self._crowded()
            )
            if refused is not None:
                self.error = _NotLetIn(*refused)
                self.completed, self.expect_continue = True, False
        return taken

    def too_slow(self) -> bool:
        """Whether its headers, or as much of its body as should be there by now, have not come."""
        waited_s = time.monotonic() - self.begun
        if not self.headers_finished:
            return waited_s > HEADERS_S
        return waited_s > BODY_S + self.content_length / BODY_BYTES_A_S

    def _header(self, name: str) -> str | None:
        if name == "transfer-encoding":  # which is taken out of the headers once it is understood
            return "chunked" if self.chunked else None
        found = self.headers.get(name.upper().replace("-", "_"))
        return None if found is None else str(found)

    def _scheme(self) -> str:
        return self.url_scheme if self.adj.trusted_proxy is None else self._header("x-forwarded-proto") or "http"

    def _crowded(self) -> tuple[int, str] | None:
        if self.content_length <= _LARGE:
            return None
        if sum(one.content_length for one in self._on_the_way) + self.content_length > MOST_ON_THE_WAY:
            return 503, "Too much is being brought in at once; wait a moment and do it again."
        self._on_the_way.add(self)
        return None


class _Channel(HTTPChannel):  # type: ignore[misc]
    error_task_class = _JsonErrorTask

    def too_slow(self, now: float) -> bool:
        """Whether who is at the other end sends, or takes, less than anybody would who waits."""
        if self.request is not None and self.request.too_slow():
            return True
        return bool(self.total_outbufs_len) and now - self.last_activity > READING_S


def serve(app: Any, listener: socket.socket, *, behind_proxy: bool = False) -> None:
    """Answer on a bound socket until the process is told to end; `behind_proxy` trusts what one says of its clients."""
    gate, on_the_way = app.extensions["gate"], WeakSet[_Parser]()
    trusted = {"trusted_proxy": "*", "trusted_proxy_count": 1, "clear_untrusted_proxy_headers": True,
               "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"}}  # fmt: skip
    server: TcpWSGIServer = waitress.create_server(
        app,
        sockets=[listener],
        threads=THREADS,
        ident="glass-thread",
        max_request_body_size=LARGEST_BODY,
        channel_request_lookahead=1,  # so that an answer learns that nobody waits for it
        connection_limit=_room_for_connections(),
        channel_timeout=IDLE_S,
        cleanup_interval=_LOOK_S,
        asyncore_use_poll=True,
        **(trusted if behind_proxy else {}),
    )

    class Channel(_Channel):
        @staticmethod
        def parser_class(adj: Any) -> _Parser:
            return _Parser(adj, gate, on_the_way)

    usual = server.maintenance

    def maintenance(now: float) -> None:
        usual(now)
        for channel in list(server.active_channels.values()):
            if channel.too_slow(now):
                channel.will_close = True

    server.channel_class, server.maintenance = Channel, maintenance
    server.run()


def _room_for_connections() -> int:
    """How many connections may be open: as many files as the system lets this process have, but for those it needs."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = min(hard, MOST_CONNECTIONS + 512) if hard != resource.RLIM_INFINITY else MOST_CONNECTIONS + 512
    if soft < wanted:
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))
        soft = wanted
    return max(100, min(MOST_CONNECTIONS, soft - 512))
