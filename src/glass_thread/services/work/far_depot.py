"""Content of a server on another machine, fetched once and kept in a folder of the worker's own."""

from __future__ import annotations

import os
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from ...core.signal.errors import AudioError
from ...core.signal.types import Analysis
from ...formats.audio import AudioReader
from ...store.files.analysis_cache import read_analysis
from ...store.files.audio_files import content_name, hash_of
from .server_link import ServerLink

KEPT_BYTES = 8 << 30


class FarDepot:
    """Content by name, over a link; what was not used for longest goes when there is more than `KEPT_BYTES`."""

    def __init__(self, folder: Path, link: ServerLink) -> None:
        self._folder, self._link = folder, link
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)

    def reader(self, audio_hash: str) -> AudioReader:
        """A recording."""

        def check(path: Path) -> None:
            if hash_of(path) != audio_hash:
                raise AudioError("The recording arrived damaged; do it again.")

        path = self._fetched(f"audio/{content_name(audio_hash)}", check)
        return AudioReader(path, self._folder / f"unpacked-{audio_hash}")

    def analysis(self, analysis_id: str) -> Analysis | None:
        """A finished analysis, or None when it is missing or damaged."""
        return read_analysis(self._fetched(f"analysis/{content_name(analysis_id)}"))

    def _fetched(self, what: str, check: Callable[[Path], None] = lambda _path: None) -> Path:
        path = self._folder / what.replace("/", "-")
        if not path.is_file():
            with self.new_file() as arriving:
                self._link.fetch(what, arriving)
                check(arriving)
                os.replace(arriving, path)
        os.utime(path)
        self._drop_oldest(path)
        return path

    @contextmanager
    def new_file(self) -> Iterator[Path]:
        """A path to write a result to; nothing is left there afterwards."""
        path = self._folder / f"new-{uuid.uuid4().hex}"
        try:
            yield path
        finally:
            path.unlink(missing_ok=True)

    def deliver(self, path: Path) -> str:
        """Send a finished file; returns its name by content."""
        name = hash_of(path)
        self._link.send(path, name)
        return name

    def _drop_oldest(self, used: Path) -> None:
        kept = sorted((path for path in self._folder.iterdir() if path != used), key=lambda path: path.stat().st_mtime)
        over = sum(path.stat().st_size for path in kept) + used.stat().st_size - KEPT_BYTES
        for path in kept:
            if over <= 0:
                return
            over -= path.stat().st_size
            path.unlink(missing_ok=True)
