"""The rows of a staged song, put into the database that they are to stand in, under ids of their own."""

from __future__ import annotations

import re
import sqlite3
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ..database import Database
from ..records import new_id
from .rows import HANDOFF, TABLES

_IDS = re.compile(r"(?<![0-9a-f])[0-9a-f]{32}(?![0-9a-f])")  # hashes of content are longer


def new_names(staging: Path) -> dict[str, str]:
    """A new id for every row that a staged song has one for."""
    with closing(sqlite3.connect(staging)) as source:
        return {row[0]: new_id() for name in TABLES for row in source.execute(f'SELECT id FROM "{name}"')}


def renamed(text: str, ids: dict[str, str]) -> str:
    """A text with the new ids wherever it had old ones: in values of their own, in names of values, and in files."""
    return _IDS.sub(lambda found: ids.get(found[0], found[0]), text)


def forget_folders(database: Database) -> None:
    """Take folders of another machine out of a staged song: here they are none, or somebody else's."""
    with database.write() as session:
        connection = session.connection()
        connection.exec_driver_sql("UPDATE song SET handoff = NULL, handoff_seen = '{}', removed_at = NULL")
        key = f'$."{HANDOFF}"'
        connection.exec_driver_sql(
            "UPDATE song_step SET change = json_remove(change, ?) WHERE json_type(change, ?) IS NOT NULL", (key, key)
        )
        connection.exec_driver_sql("DELETE FROM song_step WHERE change = '{}'")


def take_in(staging: Path, target: Database, ids: dict[str, str], put_files: Callable[[], None]) -> None:
    """Store a staged song with its files, all or nothing; it is the newest of the songs there.

    Files enter the folder inside the transaction, as `sweep` counts on it.
    """
    with closing(sqlite3.connect(staging)) as source, target.write() as session:
        for name in TABLES:
            for columns, row in _rows(source, name):
                values = [renamed(value, ids) if isinstance(value, str) else value for value in row]
                _add(session, name, columns, values)
        song = next(iter(source.execute("SELECT id FROM song")))[0]
        session.connection().exec_driver_sql("UPDATE song SET created_at = ? WHERE id = ?", (time.time(), ids[song]))
        put_files()


def _rows(source: sqlite3.Connection, table: str) -> Iterator[tuple[list[str], tuple[Any, ...]]]:
    found = source.execute(f'SELECT * FROM "{table}" ORDER BY rowid')
    columns = [one[0] for one in found.description]
    for row in found:
        yield columns, row


def _add(session: Session, table: str, columns: list[str], values: list[Any]) -> None:
    names, marks = ", ".join(f'"{name}"' for name in columns), ", ".join("?" * len(values))
    session.connection().exec_driver_sql(f'INSERT INTO "{table}" ({names}) VALUES ({marks})', tuple(values))
