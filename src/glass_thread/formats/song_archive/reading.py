"""Reading a song archive that anybody may have made: nothing of it is believed before it was looked at."""

from __future__ import annotations

import hashlib
import struct
import zipfile
import zlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ...core.signal.errors import ParameterError
from .manifest import MANIFEST, Manifest, Member, broken, read_manifest, strict_json

MOST_MEMBERS = 20_000
LARGEST_MANIFEST = 16 << 20
LONGEST_LINE = 64 << 20  # a pass over an hour of singing is a line of some 3 MB
LARGEST_TABLE = 4 << 30
MOST_PACKED = 200  # times that rows may be larger than they are in the file; a long history of the demo has 12
_BLOCK = 1 << 20
# What reading a damaged zip may end in: a place before its beginning is an OSError.
_UNREADABLE = (zipfile.BadZipFile, zlib.error, struct.error, EOFError, NotImplementedError, RuntimeError, OSError,
               ValueError, OverflowError)  # fmt: skip


class ArchiveReader:
    """An archive whose list of files holds together; their bytes are compared with their hashes as they are read."""

    def __init__(self, path: Path) -> None:
        """Look into an archive.

        Raises
        ------
        ParameterError
            When it is none, holds what does not belong in one, or is of a newer program.
        """
        try:
            self._zip = zipfile.ZipFile(path)
        except _UNREADABLE as error:
            raise broken("it is no zip file, or its end is missing.") from error
        try:
            self.manifest = self._look(path.stat().st_size)
        except BaseException:
            self.close()
            raise

    def __enter__(self) -> ArchiveReader:
        return self

    def __exit__(self, *_error: object) -> None:
        self.close()

    def close(self) -> None:
        """Close the file."""
        self._zip.close()

    def _look(self, size: int) -> Manifest:
        listed = self._zip.infolist()
        there = {one.filename: one for one in listed}
        if len(listed) > MOST_MEMBERS or len(there) < len(listed):
            raise broken("it holds too many files, or two of one name.")
        if sum(one.compress_size for one in listed) > size:
            raise broken("its files lie over each other.")
        if MANIFEST not in there or there[MANIFEST].file_size > LARGEST_MANIFEST:
            raise broken(f"it has no {MANIFEST} that can be read.")
        manifest = read_manifest(b"".join(self._blocks(MANIFEST, LARGEST_MANIFEST)))
        named = {one.path for one in manifest.members}
        if len(named) < len(manifest.members) or named != set(there) - {MANIFEST}:
            other = min((set(there) ^ named) - {MANIFEST}, default="one twice")
            raise broken(f"its {MANIFEST} and its files differ ({other[:80]!r}).")
        for one in manifest.members:
            _look_at(one, there[one.path])
        return manifest

    def rows(self, member: Member) -> Iterator[dict[str, Any]]:
        """The rows of a table.

        Raises
        ------
        ParameterError
            When they are none, or not those that were packed; the last may come with the last row.
        """
        for number, line in enumerate(_lines(self._checked(member)), 1):
            try:
                row = strict_json(line)
            except ValueError as error:
                raise broken(f"line {number} of {member.path} is not JSON that can be read.") from error
            if not isinstance(row, dict):
                raise broken(f"line {number} of {member.path} is no row.")
            yield row

    def extract(self, member: Member, target: Path) -> None:
        """Write a file out; ParameterError when it is not the one that was packed."""
        with target.open("wb") as file:
            for block in self._checked(member):
                file.write(block)

    def _checked(self, member: Member) -> Iterator[bytes]:
        digest = hashlib.sha256()
        for block in self._blocks(member.path, member.size):
            digest.update(block)
            yield block
        if digest.hexdigest() != member.sha256:
            raise broken(f"{member.path} is damaged: it is not what was packed.")

    def _blocks(self, path: str, most: int) -> Iterator[bytes]:
        """The bytes of a file, never more of them than it said that it has."""
        left = most
        try:
            with self._zip.open(path) as file:
                while block := file.read(_BLOCK):
                    left -= len(block)
                    if left < 0:
                        raise broken(f"{path} is longer than it says.")
                    yield block
        except ParameterError:
            raise
        except _UNREADABLE as error:
            raise broken(f"{path} is damaged.") from error


def _look_at(member: Member, info: zipfile.ZipInfo) -> None:
    if info.flag_bits & 1:
        raise broken("it is locked with a password.")
    if info.file_size != member.size:
        raise broken(f"{member.path} has another size than it should.")
    if member.kind == "table":
        if member.size > min(LARGEST_TABLE, MOST_PACKED * info.compress_size + _BLOCK):
            raise broken(f"{member.path} would become too large.")
    elif info.compress_type != zipfile.ZIP_STORED or info.compress_size != info.file_size:
        raise broken(f"{member.path} is packed otherwise than recordings are.")


def _lines(blocks: Iterator[bytes]) -> Iterator[bytes]:
    """Lines of a file that comes in blocks."""
    begun = bytearray()
    for block in blocks:
        begun += block
        *whole, rest = begun.split(b"\n")
        begun = bytearray(rest)
        if len(begun) > LONGEST_LINE:
            raise broken("it has a line that is too long.")
        yield from (bytes(one) for one in whole if one)
    if begun:
        yield bytes(begun)
