"""Audio by content: each file is kept once under the hash of its bytes and never changed."""

from __future__ import annotations

import hashlib
import os
import re
import shutil
import uuid
from contextlib import suppress
from pathlib import Path
from typing import BinaryIO

from ...core.signal.errors import AudioError, TooLargeError
from ...formats.atomic import PART, put_in_place, write_whole
from ...formats.audio import AudioReader

LARGEST_UPLOAD = 2 * 1024**3
_BLOCK = 1 << 20
NAME_BY_CONTENT = re.compile(r"[0-9a-f]{64}(?:-[\w.]{1,16})?")
_PRINT = re.compile(r"[0-9a-f]{32}\.\w{1,8}")


def content_name(name: str) -> str:
    """A name by content as it came, from wherever that was; AudioError when it is none, and so perhaps a path."""
    if not NAME_BY_CONTENT.fullmatch(name):
        raise AudioError("What is asked for has no name by content.")
    return name


def hash_of(path: Path) -> str:
    """SHA-256 of a file's bytes, hexadecimal."""
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while block := file.read(_BLOCK):
            digest.update(block)
    return digest.hexdigest()


class AudioFiles:
    """Folder of immutable source files and of finished prints."""

    def __init__(self, folder: Path) -> None:
        self._sources = folder / "audio"
        self._prints = folder / "prints"
        self._incoming = folder / "incoming"
        self._unpacked = folder / "unpacked"
        self._results = folder / "results"
        self._whole: dict[str, tuple[int, int]] = {}  # recordings whose bytes were looked at, with size and time
        for path in (self._sources, self._prints, self._incoming, self._unpacked, self._results):
            path.mkdir(parents=True, exist_ok=True)

    def clean(self) -> None:
        """Remove temporary files that an interrupted program left; only while nobody else works on the folder."""
        self.clear_results()
        for folder in (path for path in self._incoming.iterdir() if path.is_dir()):
            shutil.rmtree(folder)
        for path in (*self._incoming.iterdir(), *(self._sources.parent / "analysis").glob(f"*{PART}"),
                     *self._prints.glob(f"*{PART}"), *self._unpacked.glob(f"*{PART}")):  # fmt: skip
            path.unlink(missing_ok=True)

    def new_incoming(self) -> Path:
        """Where a file may be put together before it has a name."""
        return self._incoming / uuid.uuid4().hex

    def receive(self, stream: BinaryIO, *, largest: int = LARGEST_UPLOAD) -> Path:
        """Write an upload to a temporary file; the caller keeps or discards it."""
        path = self.new_incoming()
        _refuse_large(stream, largest)  # before a byte is copied: what takes no room on the disk may be long
        size = 0
        try:
            with path.open("wb") as file:
                while block := stream.read(_BLOCK):
                    size += len(block)
                    if size > largest:
                        raise TooLargeError(f"The file is larger than {largest / 1024**3:.0f} GB.")
                    file.write(block)
                file.flush()
                os.fsync(file.fileno())
        except (OSError, TooLargeError):
            path.unlink(missing_ok=True)
            raise
        return path

    def keep(self, incoming: Path, audio_hash: str) -> None:
        """Move a received file to its place by content; `sweep` counts on its track being stored along with it."""
        put_in_place(incoming, self._sources / audio_hash)

    def keep_result(self, incoming: Path, expected: str | None = None) -> str:
        """Keep what a worker made under the hash of its bytes until its task is settled; returns that name.

        Raises
        ------
        AudioError
            If it should have another hash.
        """
        name = hash_of(incoming)
        if expected is not None and name != expected:
            raise AudioError("The result arrived damaged; send it again.")
        put_in_place(incoming, self._results / name)
        return name

    def take_result(self, name: str, target: Path) -> None:
        """Put what a worker made where it belongs; two tasks may have made the same.

        Raises
        ------
        AudioError
            If it is not there.
        """
        try:
            write_whole(target, lambda part: _link_or_copy(self._results / content_name(name), part))
        except FileNotFoundError as error:
            raise AudioError("The result is missing; do it again.") from error

    def clear_results(self) -> None:
        """Remove what workers made; only while no task that may want it is unfinished."""
        for path in self._results.iterdir():
            path.unlink(missing_ok=True)

    def place(self, audio_hash: str) -> Path:
        """Where a source with this hash is kept, whether or not it is there."""
        return self._sources / content_name(audio_hash)

    def source(self, audio_hash: str) -> Path:
        """Path of a kept source; AudioError when it is gone from the disk."""
        path = self.place(audio_hash)
        if not path.is_file():
            raise AudioError("The recording's file is missing from the data folder.")
        return path

    def reader(self, audio_hash: str) -> AudioReader:
        """A kept source, to be read piece by piece; AudioError when its bytes are not those that were brought in."""
        path = self.source(audio_hash)
        self._look_at(path)
        return AudioReader(path, self._unpacked / audio_hash)

    def _look_at(self, path: Path) -> None:
        """Compare a file with its name, once for as long as it is not written to."""
        found = path.stat()
        stamp = found.st_size, found.st_mtime_ns
        if self._whole.get(path.name) == stamp:
            return
        if hash_of(path) != path.name:
            raise AudioError(
                "The recording's file in the data folder is damaged: it is not what was brought in. Put a copy of that "
                f"in its place ({path}), or bring the recording in again; your edits are safe."
            )
        self._whole[path.name] = stamp

    def print_path(self, name: str) -> Path:
        """Where a print with this generated name is written."""
        if not _PRINT.fullmatch(name):
            raise AudioError("What is asked for is no name of a print.")
        return self._prints / name


def _refuse_large(stream: BinaryIO, largest: int) -> None:
    """TooLargeError for a file on disk that holds more than is accepted."""
    with suppress(OSError, AttributeError, ValueError):  # not a file
        if os.fstat(stream.fileno()).st_size > largest:
            raise TooLargeError(f"The file is larger than {largest / 1024**3:.0f} GB.")


def _link_or_copy(source: Path, target: Path) -> None:
    try:
        os.link(source, target)
    except FileNotFoundError:
        raise
    except OSError:  # the file system has no links
        shutil.copyfile(source, target)
