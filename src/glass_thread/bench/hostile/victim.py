"""A server in a process of its own, to be attacked."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

import requests

from ...api.app import PREFIX
from .server_process import ServerProcess

SETTLE_S = 600
ENDED = ("done", "failed", "cancelled")


def children(pid: int) -> list[int]:
    """Processes that a process started; none when it is gone."""
    try:
        return [int(one) for file in Path(f"/proc/{pid}/task").glob("*/children") for one in file.read_text().split()]
    except OSError:
        return []


class Victim(ServerProcess):
    """A server of which every answer is counted by its status."""

    def __init__(self, folder: Path) -> None:
        super().__init__(folder)
        self.answers: dict[int, int] = {}
        self.wordless = 0

    def start(self, *settings: str, stderr: int | None = subprocess.DEVNULL) -> subprocess.Popen[bytes]:
        """Start it and wait until it answers; what it says of its wounds is not shown."""
        return super().start(*settings, stderr=stderr)

    def kill_a_worker(self, rng: random.Random) -> bool:
        """End one worker with -9; False when none runs."""
        assert self.process is not None
        workers = children(self.process.pid)
        if workers:
            with suppress(ProcessLookupError):
                os.kill(rng.choice(workers), signal.SIGKILL)
        return bool(workers)

    def ask(
        self, method: str, path: str, *, headers: dict[str, str] | None = None, **settings: Any
    ) -> requests.Response:
        """An answer of the interface; OSError while nobody is there."""
        answer = requests.request(method, f"{self.url}{PREFIX}{path}", timeout=120,
                                  headers={"Origin": self.url, **(headers or {})}, **settings)  # fmt: skip
        self.answers[answer.status_code] = self.answers.get(answer.status_code, 0) + 1
        if answer.status_code >= 400 and not str(answer.json().get("message", "")).endswith((".", "?")):
            self.wordless += 1
        return answer

    def song(self, title: str) -> str:
        """A new song's id."""
        return str(self.ask("POST", "/songs", json={"title": title}).json()["id"])

    def bring_in(self, song: str, name: str, data: bytes, **form: str) -> requests.Response:
        """Upload a file."""
        return self.ask("POST", f"/songs/{song}/tracks", files={"file": (name, data)}, data=form)

    def settled(self, task: str) -> str:
        """Wait for a task; its state."""
        end = time.monotonic() + SETTLE_S
        while time.monotonic() < end:
            answer = self.ask("GET", f"/tasks/{task}")
            if answer.status_code == 404 or answer.json()["state"] in ENDED:
                return "gone" if answer.status_code == 404 else str(answer.json()["state"])
            time.sleep(0.05)
        return "running for ever"

    def left_behind(self) -> int:
        """Files of no use in the folder; only while nothing is being done."""
        half = [path for path in self.folder.rglob("*.part")]
        return len(half) + sum(len(list((self.folder / place).iterdir())) for place in ("incoming", "results"))

    def server_errors(self) -> int:
        """How many answers were 5xx other than 507."""
        return sum(count for status, count in self.answers.items() if status >= 500 and status != 507)
