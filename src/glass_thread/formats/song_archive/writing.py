"""Writing a song archive, in bounded memory."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from typing import Any

from .manifest import MANIFEST, Kind, Manifest, Member

_BLOCK = 1 << 20
_AS_IT_WAS = (1980, 1, 1, 0, 0, 0)  # the same song gives the same bytes, whenever it is packed


class ArchiveWriter:
    """An archive that is being written; `finish` makes it whole, and leaving it closes the file."""

    def __init__(self, path: Path) -> None:
        self._zip = zipfile.ZipFile(path, "w", allowZip64=True)
        self._members: list[Member] = []

    def __enter__(self) -> ArchiveWriter:
        return self

    def __exit__(self, *_error: object) -> None:
        self._zip.close()

    def add_file(self, path: str, kind: Kind, name: str, source: Path) -> None:
        """Put a file in as it is."""
        with source.open("rb") as file:
            self._add(path, kind, name, iter(lambda: file.read(_BLOCK), b""), zipfile.ZIP_STORED)

    def add_table(self, name: str, rows: Iterable[Mapping[str, Any]]) -> None:
        """Put rows in as JSON, one a line."""
        lines = (json.dumps(row, ensure_ascii=False, separators=(",", ":")).encode() + b"\n" for row in rows)
        self._add(f"tables/{name}.jsonl", "table", name, lines, zipfile.ZIP_DEFLATED)

    def _add(self, path: str, kind: Kind, name: str, blocks: Iterator[bytes], how: int) -> None:
        size, digest = 0, hashlib.sha256()
        info = zipfile.ZipInfo(path, _AS_IT_WAS)
        info.compress_type = how
        with self._zip.open(info, "w", force_zip64=True) as file:
            for block in blocks:
                file.write(block)
                digest.update(block)
                size += len(block)
        self._members.append(Member(path, kind, name, size, digest.hexdigest()))

    def finish(self, about: dict[str, Any], made_by: str, layout: str) -> None:
        """Put the manifest in."""
        info = zipfile.ZipInfo(MANIFEST, _AS_IT_WAS)
        info.compress_type = zipfile.ZIP_DEFLATED
        self._zip.writestr(info, Manifest(about, made_by, layout, tuple(self._members)).to_json())
