"""The real application in a process of its own."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import TypeVar

from glass_thread.cli.victim import free_port

PATIENCE_S = int(os.environ.get("GLASS_THREAD_PATIENCE_MS", "180000")) / 1000  # a slow machine is no failure
START_S = 600  # the sound engine may have to be compiled first
FRONT_END = Path(__file__).parent.parent / ".cache" / "web_for_tests"
Found = TypeVar("Found")


def until(condition: Callable[[], Found], what: str, patience_s: float = PATIENCE_S) -> Found:
    """Wait for something to be true; returns it."""
    end = time.monotonic() + patience_s
    while not (found := condition()):
        if time.monotonic() > end:
            raise AssertionError(f"waited in vain for {what}")
        time.sleep(0.02)
    return found


class Application:
    """``glass-thread demo`` (or `verb`) on a folder; can be killed and started again."""

    def __init__(self, folder: Path, verb: str = "demo") -> None:
        self.folder, self.verb = folder, verb
        self.port = free_port()
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        """Where it answers."""
        return f"http://127.0.0.1:{self.port}"

    def launch(self, *settings: str, stderr: int | None = None) -> subprocess.Popen[bytes]:
        """Start it without waiting."""
        command = [sys.executable, "-m", "glass_thread", self.verb, "--port", str(self.port),
                   "--data", str(self.folder), "--front-end", str(FRONT_END), *settings]  # fmt: skip
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=stderr, start_new_session=True)
        return self.process

    def start(self, *settings: str) -> subprocess.Popen[bytes]:
        """Start it and wait until it answers."""
        process = self.launch(*settings)
        until(self._answers, "the application", START_S)
        return process

    def _answers(self) -> bool:
        try:
            urllib.request.urlopen(f"{self.url}/api/v1/songs", timeout=30).close()
        except OSError:
            return False
        return True

    def kill(self) -> None:
        """End it the hard way, worker and all."""
        if self.process:
            with suppress(ProcessLookupError):  # it may have ended by itself
                os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None
