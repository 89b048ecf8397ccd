"""Reading records by the values of columns.

Each statement is built once and reads plain columns: building it anew, into rows that would know what changes in them,
takes five times as long as SQLite does, and every request of the screen reads a handful of records.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields
from typing import Any, Generic, TypeVar

from sqlalchemy import ColumnElement, Select, bindparam, null, select

from .database import Database
from .models import Base
from .records import Print, Song, SongStep, Step, StepEntry, Task, Track, Version

Record = TypeVar("Record", Print, Song, SongStep, Track, Step, StepEntry, Task, Version)


def record_of(kind: type[Record], row: Base) -> Record:
    """The frozen record of a row."""
    return kind(**{field.name: getattr(row, field.name) for field in fields(kind)})


class Finder(Generic[Record]):
    """Finds records where the columns `by` have asked-for values and `where` holds; what has no column is None."""

    def __init__(
        self, kind: type[Record], row: type[Base], by: Sequence[str] = (), *where: ColumnElement[bool], order: str = ""
    ) -> None:
        columns = row.__table__.c
        read = [columns[one.name] if one.name in columns else null() for one in fields(kind)]
        asked: Select[Any] = select(*read).where(*(columns[name] == bindparam(name) for name in by), *where)
        self._kind: type[Record] = kind
        self._statement = asked.order_by(columns[order]) if order else asked

    def all(self, database: Database, **values: object) -> list[Record]:
        """Everything that is found."""
        with database.look() as connection:
            return [self._kind(*row) for row in connection.execute(self._statement, values)]

    def one(self, database: Database, **values: object) -> Record | None:
        """The first that is found, or None."""
        return next(iter(self.all(database, **values)), None)
