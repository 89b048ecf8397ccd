"""A data folder copied while it is worked on, as it stood at one moment."""

from __future__ import annotations

import shutil
import sqlite3
import uuid
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import quote

from ...core.signal.errors import ConflictError, ParameterError
from ...store.database import Database, damaged
from ...store.sweep import used_files
from ..folder.workspace import DATABASE

_TRIES = 3


@dataclass(frozen=True)
class BackedUp:
    """How many files were copied and the bytes they hold."""

    files: int
    size: int


def back_up(folder: Path, target: Path) -> BackedUp:
    """Copy a data folder to one that is not there yet, whole or not at all; a server may work on it meanwhile.

    The database is copied as it stands at one moment, and then the files that it names, which never change. What lets
    browsers and workers in is not copied; the copy makes its own when it is opened.

    Raises
    ------
    ParameterError
        When there is something at the target, or the database is damaged.
    ConflictError
        When a recording is missing, or files were swept away again and again meanwhile.
    """
    if target.exists():
        raise ParameterError(f"There is something at {target} already; name a folder that is not there yet.")
    if target.resolve().is_relative_to(folder.resolve()):
        raise ParameterError("A copy of a data folder lies outside of it.")
    target.parent.mkdir(parents=True, exist_ok=True)
    part = target.with_name(f"{target.name}.{uuid.uuid4().hex[:8]}.part")
    try:
        for _ in range(_TRIES):
            part.mkdir(mode=0o700)
            try:
                done = _copied(folder, part)
                part.rename(target)
                return done
            except FileNotFoundError:  # swept away since the database was copied
                shutil.rmtree(part)
        raise ConflictError(
            "A recording is missing, or was taken away while it was copied; back up again, or see “glass-thread check”."
        )
    finally:
        shutil.rmtree(part, ignore_errors=True)


def _copied(folder: Path, part: Path) -> BackedUp:
    try:
        with (
            closing(sqlite3.connect(f"file:{quote(str(folder / DATABASE))}?mode=ro", uri=True)) as source,
            closing(sqlite3.connect(part / DATABASE)) as target,
        ):
            source.backup(target)
    except sqlite3.DatabaseError as error:
        raise damaged(folder / DATABASE) from error
    files, size = 1, (part / DATABASE).stat().st_size
    for place, names in _named(part / DATABASE).items():
        (part / place).mkdir()
        for name in sorted(names):
            source_file = folder / place / name
            if not source_file.is_file() and place != "audio":
                continue  # none was made yet, or it was taken away by hand
            shutil.copy2(source_file, part / place / name)
            files, size = files + 1, size + source_file.stat().st_size
    return BackedUp(files, size)


def _named(path: Path) -> dict[str, set[str]]:
    database = Database(path)
    try:
        return used_files(database)
    finally:
        database.close()
