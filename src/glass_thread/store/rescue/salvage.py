"""Every row that can still be read of a damaged SQLite file, in a new one."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from urllib.parse import quote

_AT_ONCE = 100
_CLOSE = 500  # numbers after a break that are all asked for: more than a page holds
_FARTHEST = 2**40  # rowids beyond which nothing is looked for


@dataclass(frozen=True)
class Salvaged:
    """How many rows of a table were saved, and how often reading broke off in it."""

    table: str
    rows: int
    breaks: int


def salvage(damaged: Path, new: Path) -> list[Salvaged]:
    """Write a new file with the tables and rows of a damaged one, which stays as it is.

    A page that cannot be read is stepped over: rows are asked for by number, further and further on, until some can be
    read again.  Rows may refer to lost ones.

    Raises
    ------
    sqlite3.DatabaseError
        When not even the names of the tables can be read.
    """
    address = f"file:{quote(str(damaged))}?mode=ro"
    with closing(sqlite3.connect(address, uri=True)) as source, closing(sqlite3.connect(new)) as target:
        source.text_factory = lambda data: data.decode(errors="replace")
        made = source.execute("SELECT type, name, sql FROM sqlite_master WHERE sql IS NOT NULL").fetchall()
        tables = [(name, sql) for kind, name, sql in made if kind == "table" and not name.startswith("sqlite_")]
        target.execute("PRAGMA foreign_keys=OFF")
        found = [_copied(source, target, name, sql) for name, sql in tables]
        for kind, _name, sql in made:
            if kind == "index":
                with suppress(sqlite3.Error):  # an index over damaged rows may not hold; migrations do not lean on it
                    target.execute(sql)
        target.commit()
    return found


def _copied(source: sqlite3.Connection, target: sqlite3.Connection, table: str, sql: str) -> Salvaged:
    target.execute(sql)
    rows = breaks = 0
    for row in _rows(source, table):
        if row is None:
            breaks += 1
            continue
        marks = ", ".join("?" * len(row))
        with suppress(sqlite3.IntegrityError):  # hurt beyond what the table takes
            target.execute(f'INSERT INTO "{table}" VALUES ({marks})', row)
            rows += 1
    return Salvaged(table, rows, breaks)


def _rows(source: sqlite3.Connection, table: str) -> Iterator[tuple[Any, ...] | None]:
    """The rows of a table by number; None wherever reading breaks off."""
    asked = f'SELECT rowid, * FROM "{table}" WHERE rowid > ? ORDER BY rowid LIMIT ?'
    after, leap, count = -1, 0, _AT_ONCE
    while after + leap < _FARTHEST:
        try:
            some = source.execute(asked, (after + leap, count)).fetchall()
        except sqlite3.DatabaseError:
            if count > 1:  # one by one up to the very row
                count = 1
                continue
            if leap == 0:
                yield None
            leap = leap + 1 if leap < _CLOSE else 2 * leap
            continue
        if not some:
            return
        count = _AT_ONCE if leap else count
        leap, after = 0, int(some[-1][0])
        yield from (tuple(row[1:]) for row in some)
