"""Files that appear whole or not at all, also after the power fails."""

from __future__ import annotations

import os
import uuid
from collections.abc import Callable
from pathlib import Path

from ..core.signal.errors import ParameterError

PART = ".part"


def put_in_place(temporary: Path, target: Path) -> None:
    """Move a finished file to its name, with its bytes and the name itself on the disk."""
    with temporary.open("rb") as file:
        os.fsync(file.fileno())
    os.replace(temporary, target)
    folder = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def write_whole(target: Path, write: Callable[[Path], None]) -> None:
    """Have `write` fill a temporary file beside `target`, then put it in place; nothing is left when it fails."""
    temporary = target.with_name(f"{uuid.uuid4().hex}{PART}")
    try:
        write(temporary)
        put_in_place(temporary, target)
    finally:
        temporary.unlink(missing_ok=True)


def save(path: Path, data: bytes) -> None:
    """Write what somebody asked for to where they said, which need be no file on a disk.

    Raises
    ------
    ParameterError
        When it cannot be written, in a sentence.
    """
    try:
        path.write_bytes(data)
    except OSError as error:
        raise ParameterError(f"{path.name} cannot be written: {error.strerror or error}.") from error


def write_bytes_whole(target: Path, data: bytes) -> None:
    """The same for bytes that are at hand."""

    def write(path: Path) -> None:
        path.write_bytes(data)

    write_whole(target, write)
