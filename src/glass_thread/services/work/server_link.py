"""A worker's link to its server: over HTTP, with the worker's token."""

from __future__ import annotations

import threading
import time
from contextlib import suppress
from importlib.metadata import version
from pathlib import Path
from typing import Any

import requests

from ... import __version__
from ...core.analysis.analysis import ANALYSIS_VERSION
from ...core.signal.errors import AudioError, CancelledError, GlassThreadError, ParameterError
from .jobs import Outcome

_PATIENCE_S = (5, 300)
_TRIES, _PAUSE_S = 30, 1.0
_SAY_S = 0.25
_BLOCK = 1 << 20


def libraries() -> dict[str, str]:
    """Versions of the libraries that compute, by name."""
    return {name: version(name) for name in ("numpy", "scipy", "numba", "soxr")}


class ServerLink:
    """What a worker says to its server and fetches from it; safe to use from several threads."""

    def __init__(self, server: str, token: str, worker: str) -> None:
        self._base = f"{server.rstrip('/')}/api/v1/work"
        self._headers = {"Authorization": f"Bearer {token}", "Origin": server.rstrip("/")}
        self._worker = worker
        self._last: tuple[str, str, float] | None = None
        self._said = 0.0

    def greet(self) -> None:
        """Make sure that the server is one, takes the token, and finds the same in a recording as this program.

        Raises
        ------
        ParameterError
            If not, in a sentence.
        """
        try:
            answer = self._ask("GET", "")
        except OSError as error:
            raise ParameterError(f"No server answers at {self._headers['Origin']}.") from error
        if answer.status_code != 200:
            raise ParameterError(_sentence(answer, "There is no Glass Thread at this address."))
        told = answer.json()
        if (told["version"], told["analysis_version"]) != (__version__, str(ANALYSIS_VERSION)):
            raise ParameterError("The server and this worker are different versions of the program; update one.")
        mine = libraries()
        other = [f"{name} {told.get('libraries', {}).get(name, 'unknown')} there and {mine[name]} here"
                 for name in mine if told.get("libraries", {}).get(name) != mine[name]]  # fmt: skip
        if other:
            raise ParameterError(
                f"The server and this worker would not find quite the same in a recording: {'; '.join(other)}. Install "
                "the same versions."
            )

    def begin(self, task_id: str) -> bool:
        """Take a task on; False when it is no longer to be done."""
        return self._say(task_id, "begin", {}).get("go_on", False)

    def progress(self, task_id: str, stage: str, share: float) -> None:
        """Say how far it is, a few times a second at most; CancelledError when it is to stop."""
        self._last = task_id, stage, share
        if time.monotonic() - self._said >= _SAY_S:
            self._progress()

    def _progress(self) -> None:
        if self._last is None:
            return
        task_id, stage, share = self._last
        self._said = time.monotonic()
        if not self._say(task_id, "progress", {"stage": stage, "share": share}).get("go_on", False):
            raise CancelledError("Stopped.")

    def beat(self, stop: threading.Event, every_s: float = 2.0) -> None:
        """Let the server know that the worker lives, until told to stop; runs in a thread of its own."""
        while not stop.wait(every_s):
            with suppress(CancelledError, OSError):  # the work itself is told at its next stage
                self._progress()

    def rest(self) -> None:
        """No task is being worked on any more."""
        self._last = None

    def done(self, task_id: str, outcome: Outcome) -> None:
        """Hand in what came of a task."""
        self.rest()
        self._say(task_id, "done", {"values": outcome.values, "file": outcome.file})

    def ended(self, task_id: str, state: str, message: str, trace: str = "") -> None:
        """Say that a task failed or was stopped."""
        self.rest()
        self._say(task_id, "ended", {"state": state, "message": message, "trace": trace[-20_000:]})

    def fetch(self, what: str, path: Path) -> None:
        """Write content of the server's to a file."""
        with self._ask("GET", f"/{what}", stream=True) as answer:
            if answer.status_code != 200:
                raise AudioError(_sentence(answer, "The server does not have what the work needs."))
            with path.open("wb") as file:
                for block in answer.iter_content(_BLOCK):
                    file.write(block)

    def send(self, path: Path, name: str) -> None:
        """Send a result under its name by content."""
        with path.open("rb") as file:
            answer = self._ask("PUT", f"/results/{name}", data=file)
        if answer.status_code != 204:
            raise GlassThreadError(_sentence(answer, "The server did not take the result."))

    def _say(self, task_id: str, verb: str, body: dict[str, Any]) -> dict[str, Any]:
        """Tell the server something; it is waited for when it is away for a moment."""
        for left in reversed(range(_TRIES)):
            try:
                answer = self._ask("POST", f"/{task_id}/{verb}", json={"worker": self._worker, **body})
            except OSError:
                if not left:
                    raise
                time.sleep(_PAUSE_S)
                continue
            return answer.json() if answer.status_code == 200 else {}
        return {}

    def _ask(self, method: str, path: str, **settings: Any) -> requests.Response:
        return requests.request(method, f"{self._base}{path}", headers=self._headers, timeout=_PATIENCE_S, **settings)


def _sentence(answer: requests.Response, otherwise: str) -> str:
    try:
        return str(answer.json()["message"])
    except (ValueError, KeyError, TypeError):
        return otherwise
