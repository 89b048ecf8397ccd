"""Rows of an archive in a database of their own: at the layout they were packed at, then brought to this release's."""

from __future__ import annotations

import json
import math
import re
import sqlite3
from collections.abc import Iterable, Mapping
from contextlib import closing
from pathlib import Path
from typing import Any

from sqlalchemy import JSON, Boolean, Float, Integer, Table

from ...core.signal.errors import ParameterError
from ..database import MIGRATIONS_KNOWN, Database, laid_out
from .rows import TABLES

OLDEST = "0015"  # what the first release with archives laid out
LARGEST_NUMBER = 1e12
_ID = re.compile(r"[0-9a-f]{32}")
# What no history has, as a question after rows of it.
_NEVER = {
    "a track does not begin": "SELECT 1 FROM track WHERE version_id IS NOT NULL AND "
    "(SELECT count(*) FROM step WHERE track_id = track.id AND parent_id IS NULL AND number = 0) <> 1",
    "a step follows none": "SELECT 1 FROM step LEFT JOIN step AS parent ON parent.id = step.parent_id "
    "AND parent.track_id = step.track_id AND parent.number = step.number - 1 "
    "WHERE step.number <> 0 AND parent.id IS NULL",
    "a step comes before the first": "SELECT 1 FROM step WHERE number < 0 OR (number = 0) <> (parent_id IS NULL)",
    "a line breaks off": "SELECT 1 FROM step JOIN step AS parent ON parent.id = step.parent_id WHERE parent.line <> "
    "step.line AND EXISTS (SELECT 1 FROM step AS other WHERE other.track_id = step.track_id "
    "AND other.line = step.line AND other.number < step.number)",
    "a version stands nowhere": "SELECT 1 FROM version WHERE NOT EXISTS (SELECT 1 FROM step WHERE id = version.head_id "
    "AND track_id = version.track_id) OR NOT EXISTS (SELECT 1 FROM step WHERE id = version.tip_id "
    "AND track_id = version.track_id)",
    "a track is worked on in another one's version": "SELECT 1 FROM track WHERE version_id IS NOT NULL AND NOT EXISTS "
    "(SELECT 1 FROM version WHERE id = track.version_id AND track_id = track.id)",
}
Rows = Iterable[tuple[str, Iterable[Mapping[str, Any]]]]


def staged(path: Path, layout: str, tables: Rows) -> Database:
    """Put rows into a new database at `path`.

    Raises
    ------
    ParameterError
        When they are of a layout that is not known, or the tables do not take them, in words to be put after “its”.
    """
    if layout not in MIGRATIONS_KNOWN or layout < OLDEST:
        raise ParameterError(f"rows have the layout {layout[:20]!r}, which this program does not know; update it.")
    laid_out(path, layout)
    with closing(sqlite3.connect(path, isolation_level=None)) as connection:
        connection.execute("PRAGMA foreign_keys=OFF")
        connection.execute("BEGIN")
        for name, rows in tables:
            _insert(connection, name, rows)
        if connection.execute("PRAGMA foreign_key_check").fetchone():
            raise ParameterError("rows belong to others that are not there.")
        connection.execute("COMMIT")
    database = Database(path)
    try:
        with closing(sqlite3.connect(path)) as connection:
            for name in TABLES:
                _look_through(connection, name)
            for what, asked in _NEVER.items():
                if connection.execute(asked).fetchone():
                    raise ParameterError(f"history does not hold together: {what}.")
    except BaseException:
        database.close()
        raise
    return database


def _insert(connection: sqlite3.Connection, table: str, rows: Iterable[Mapping[str, Any]]) -> None:
    if table not in TABLES:
        raise ParameterError(f"table {table[:40]!r} is none of a song.")
    known = {row[1] for row in connection.execute(f'PRAGMA table_info("{table}")')}
    for row in rows:
        other = sorted(row.keys() - known)
        if other:
            raise ParameterError(f"rows of “{table}” have a value {other[0][:40]!r} that there is none of.")
        values = [_stored(value) for value in row.values()]
        names, marks = ", ".join(f'"{name}"' for name in row), ", ".join("?" * len(values))
        try:
            connection.execute(f'INSERT INTO "{table}" ({names}) VALUES ({marks})', values)
        except (sqlite3.Error, OverflowError, UnicodeEncodeError) as error:
            raise ParameterError(f"rows of “{table}” are not whole, or two are the same.") from error


def _stored(value: Any) -> Any:
    return json.dumps(value) if isinstance(value, (dict, list)) else value


def _look_through(connection: sqlite3.Connection, name: str) -> None:
    """ParameterError for values that no column of theirs can have: SQLite itself takes any."""
    table = TABLES[name].__table__
    assert isinstance(table, Table)
    columns = [(column.name, column.type, column.nullable) for column in table.columns]
    named = ", ".join(f'"{column}"' for column, _type, _nullable in columns)
    for row in connection.execute(f'SELECT {named} FROM "{name}"'):
        for (column, kind, nullable), value in zip(columns, row, strict=True):
            if not (nullable if value is None else _fits(kind, column, value)):
                raise ParameterError(f"rows of “{name}” have a “{column}” that cannot be.")


def _nested(text: str) -> bool:
    try:
        return isinstance(json.loads(text), (dict, list))
    except (ValueError, RecursionError):
        return False


def _fits(kind: Any, column: str, value: object) -> bool:
    if isinstance(kind, Boolean):
        return value in (0, 1)
    if isinstance(kind, (Integer, Float)):
        whole = isinstance(kind, Integer)
        fine = isinstance(value, int if whole else (int, float)) and math.isfinite(value)
        return fine and abs(value) <= LARGEST_NUMBER  # type: ignore[arg-type]
    if isinstance(kind, JSON):
        return isinstance(value, str) and _nested(value)
    if not isinstance(value, str):
        return False
    ids = column == "id" or (column.endswith("_id") and column != "analysis_id") or column in ("shared", "derived_from")
    return _ID.fullmatch(value) is not None if ids or column == "heard_version" else True
