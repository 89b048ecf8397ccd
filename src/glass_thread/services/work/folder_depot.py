"""The data folder itself, for work on the machine that holds it; the database in it is not touched."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from ...core.signal.types import Analysis
from ...formats.audio import AudioReader
from ...store.files.analysis_cache import AnalysisCache
from ...store.files.audio_files import AudioFiles


class FolderDepot:
    """Content of a data folder, by name."""

    def __init__(self, folder: Path) -> None:
        self._audio = AudioFiles(folder)
        self._analyses = AnalysisCache(folder)

    def reader(self, audio_hash: str) -> AudioReader:
        """A recording."""
        return self._audio.reader(audio_hash)

    def analysis(self, analysis_id: str) -> Analysis | None:
        """A finished analysis, or None when it is missing or damaged."""
        return self._analyses.load(analysis_id)

    @contextmanager
    def new_file(self) -> Iterator[Path]:
        """A path to write a result to; nothing is left there afterwards."""
        path = self._audio.new_incoming()
        try:
            yield path
        finally:
            path.unlink(missing_ok=True)

    def deliver(self, path: Path) -> str:
        """Hand a finished file over; returns its name by content."""
        return self._audio.keep_result(path)
