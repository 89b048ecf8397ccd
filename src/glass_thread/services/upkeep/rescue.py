"""A folder whose database is damaged, once more with all of it that can be read."""

from __future__ import annotations

import shutil
import sqlite3
from dataclasses import dataclass
from pathlib import Path

from ...core.signal.errors import ParameterError
from ...store.rescue.making_whole import make_whole
from ...store.rescue.salvage import Salvaged, salvage
from ..folder.workspace import DATABASE, open_workspace
from ..session.keys import SONG_DEFAULTS

_NOT_TAKEN = (f"{DATABASE}*", "queue.sqlite3*", "*.part", "*.lock")


@dataclass(frozen=True)
class Rescued:
    """What was read of each table, and what had to be left out or made up so that it holds together, in words."""

    tables: list[Salvaged]
    told: list[str]


def rescue(folder: Path, new: Path) -> Rescued:
    """Copy a data folder into a new one, with every row of its database that can be read; the folder stays as it is.

    Steps that lead from a lost one are left out, and a version that stood at one stands at the latest step that can be
    reached from the beginning; a lost song is made up for its tracks.

    Raises
    ------
    ParameterError
        When there is something at `new`, or nothing of the database can be read.
    """
    if new.exists() and any(new.iterdir() if new.is_dir() else [new]):
        raise ParameterError(f"There is something at {new} already; name a folder that is not there yet.")
    shutil.copytree(folder, new, ignore=shutil.ignore_patterns(*_NOT_TAKEN), dirs_exist_ok=True)
    hurt = new / "damaged.sqlite3"
    for end in ("", "-wal"):  # a copy of both, so that nothing is written beside the folder's own
        if (folder / f"{DATABASE}{end}").is_file():
            shutil.copyfile(folder / f"{DATABASE}{end}", f"{hurt}{end}")
    try:
        tables = salvage(hurt, new / DATABASE)
    except sqlite3.DatabaseError as error:
        shutil.rmtree(new)
        raise ParameterError("Not even the names of its tables can be read of this database.") from error
    finally:
        for one in new.glob("damaged.sqlite3*"):
            one.unlink()
    workspace = open_workspace(new)
    try:
        return Rescued(tables, make_whole(workspace.database, SONG_DEFAULTS))
    finally:
        workspace.close()
