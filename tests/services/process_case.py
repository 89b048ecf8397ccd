"""``glass-thread serve`` as a process, for tests of what happens between processes."""

from __future__ import annotations

import json
import tempfile
import urllib.request
from pathlib import Path

import numpy as np
import soundfile as sf

from tests.application import Application
from tests.signals import RATE, FolderCase, sung_short


class ServerCase(FolderCase):
    """``glass-thread serve`` on a folder of its own, for all tests of a class."""

    settings: tuple[str, ...] = ()
    running: Application

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        temporary = tempfile.TemporaryDirectory()
        cls.addClassCleanup(temporary.cleanup)
        cls.running = Application(Path(temporary.name) / "data", "serve")
        cls.addClassCleanup(cls.running.kill)
        cls.running.start(*cls.settings)

    def ask(self, path: str, body: dict | None = None) -> dict:
        """What the interface answers to a GET, or with `body` to a POST."""
        address = f"{self.running.url}/api/v1{path}"
        sent = json.dumps(body).encode()
        request = urllib.request.Request(address, sent, {"Content-Type": "application/json"}) if body else address
        with urllib.request.urlopen(request, timeout=60) as answer:
            return json.load(answer)

    def bring_in(self, path: Path) -> str:
        """Upload with the standard library alone; returns the task's id."""
        song = self.ask("/songs", {"title": "Test"})["id"]
        edge = "edge"
        head = f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="a.flac"\r\n\r\n'
        body = head.encode() + path.read_bytes() + f"\r\n--{edge}--\r\n".encode()
        origin = self.running.url
        headers = {"Content-Type": f"multipart/form-data; boundary={edge}", "Origin": origin}
        request = urllib.request.Request(f"{origin}/api/v1/songs/{song}/tracks", body, headers)
        with urllib.request.urlopen(request, timeout=60) as answer:
            return json.load(answer)["task"]["id"]

    def long_take(self, seconds: int) -> Path:
        """The short performance again and again."""
        one = sung_short()[1].audio
        path = self.folder / "long.flac"
        sf.write(str(path), np.tile(one, int(seconds * RATE / len(one)) + 1), RATE)
        return path
