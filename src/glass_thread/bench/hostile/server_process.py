"""The program as a process of its own, for benchmarks and tests."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path

import requests

from ...api.app import PREFIX

START_S = 600  # the sound engine may have to be compiled first


def free_port() -> int:
    """A port nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


class ServerProcess:
    """``glass-thread serve`` (or another `verb`) on a folder; can be killed and started again."""

    def __init__(self, folder: Path, verb: str = "serve") -> None:
        self.folder, self.verb = folder, verb
        self.port = free_port()
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        """Where it answers."""
        return f"http://127.0.0.1:{self.port}"

    def command(self) -> list[str]:
        """How it is started."""
        port, folder = str(self.port), str(self.folder)
        return [sys.executable, "-m", "glass_thread", self.verb, "--port", port, "--data", folder]

    def launch(self, *settings: str, stderr: int | None = None) -> subprocess.Popen[bytes]:
        """Start it without waiting."""
        self.process = subprocess.Popen(
            [*self.command(), *settings], stdout=subprocess.DEVNULL, stderr=stderr, start_new_session=True
        )
        return self.process

    def start(self, *settings: str, stderr: int | None = None) -> subprocess.Popen[bytes]:
        """Start it and wait until it answers."""
        process = self.launch(*settings, stderr=stderr)
        end = time.monotonic() + START_S
        while time.monotonic() < end:
            with suppress(OSError):
                requests.get(f"{self.url}{PREFIX}/scales", timeout=30)
                return process
            time.sleep(0.02)
        raise AssertionError("The server does not start.")

    def kill(self) -> None:
        """End server and workers with -9."""
        if self.process:
            with suppress(ProcessLookupError):  # it may have ended by itself
                os.killpg(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None
