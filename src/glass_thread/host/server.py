"""The host's own small page: files of a hand-off folder on a timeline, played, and the null test."""

from __future__ import annotations

import itertools
import json
from dataclasses import asdict
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

import numpy as np
import soundfile as sf

from ..core.signal.errors import GlassThreadError
from ..formats.audio import probe_audio
from ..formats.handoff_folder import IN, OUT, SOUND, files_in
from .check import check_folder

PAGE = Path(__file__).parent / "page"
COLUMNS = 600
_TYPES = {
    ".html": "text/html; charset=utf-8", ".css": "text/css", ".js": "text/javascript", ".svg": "image/svg+xml",
    ".wav": "audio/wav", ".flac": "audio/flac", ".aif": "audio/aiff", ".aiff": "audio/aiff",
}  # fmt: skip
_POLICY = "default-src 'self'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'"
_HEADERS = {"Cache-Control": "no-store", "Content-Security-Policy": _POLICY, "X-Content-Type-Options": "nosniff"}
_LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})


def outline(path: Path, columns: int = COLUMNS) -> list[int]:
    """Highest level of equal parts of a file, 0 to 100."""
    with sf.SoundFile(str(path)) as file:
        edges = np.linspace(0, file.frames, columns + 1).astype(int)
        found = []
        for a, b in itertools.pairwise(edges.tolist()):
            part = file.read(b - a, dtype="float32", always_2d=True)
            found.append(int(min(100.0, 100.0 * float(np.abs(part).max(initial=0.0)))))
    return found


def timeline(folder: Path) -> dict[str, Any]:
    """Every file of a folder with its place by its time stamp, and what the null test says."""
    files = []
    for place in (IN, OUT):
        for path in files_in(folder / place, SOUND):
            try:
                info = probe_audio(path)
                begin = (info.time_reference or 0) / info.sample_rate
                seconds, stamped = info.frames / info.sample_rate, info.time_reference is not None
                files.append({"place": place, "name": path.name, "begin_s": begin, "seconds": seconds,
                              "stamped": stamped, "outline": outline(path)})  # fmt: skip
            except (GlassThreadError, sf.LibsndfileError) as error:
                files.append({"place": place, "name": path.name, "problem": str(error)})
    return {"folder": folder.name, "files": files, "found": [asdict(one) for one in check_folder(folder)]}


def host_server(folder: Path, port: int) -> ThreadingHTTPServer:
    """A server on the loopback address; port 0 takes a free one."""

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            if urlsplit(f"//{self.headers.get('Host', '')}").hostname not in _LOOPBACK:
                return self._send(403, b"", "text/plain")
            path = unquote(urlsplit(self.path).path)
            if path == "/folder.json":
                return self._json()
            if path.startswith("/sound/"):
                return self._file(self._sound(path.removeprefix("/sound/")))
            return self._file(PAGE / (path.strip("/") or "index.html"), PAGE)

        def _json(self) -> None:
            try:
                self._send(200, json.dumps(timeline(folder)).encode(), "application/json")
            except GlassThreadError as error:
                self._send(422, json.dumps({"message": str(error)}).encode(), "application/json")

        def _sound(self, wanted: str) -> Path:
            """The file that is named; only one that the folder lists is ever opened."""
            known = {f"{place}/{path.name}": path for place in (IN, OUT) for path in files_in(folder / place, SOUND)}
            return known.get(wanted, PAGE / "nothing")

        def _file(self, path: Path, within: Path | None = None) -> None:
            inside = within is None or path.resolve().parent == within.resolve()
            if not inside or not path.is_file():
                return self._send(404, b"There is no such file.", "text/plain")
            self._send(200, path.read_bytes(), _TYPES.get(path.suffix.lower(), "application/octet-stream"))

        def _send(self, status: int, body: bytes, kind: str) -> None:
            self.send_response(status)
            headers = {"Content-Type": kind, "Content-Length": str(len(body)), **_HEADERS}
            for name, value in headers.items():
                self.send_header(name, value)
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, format: str, *args: Any) -> None:
            """Quiet: the page says what there is to say."""

    return ThreadingHTTPServer(("127.0.0.1", port), Handler)
