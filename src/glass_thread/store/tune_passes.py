"""Tune passes that the user saved by name."""

from __future__ import annotations

from typing import Any

from sqlalchemy import delete, select

from .database import Database
from .models import TunePassRow


class TunePasses:
    """Settings of tune passes by name."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> dict[str, dict[str, Any]]:
        """Name to settings, by name."""
        with self._database.read() as session:
            rows = session.scalars(select(TunePassRow).order_by(TunePassRow.name))
            return {row.name: dict(row.settings) for row in rows}

    def save(self, name: str, settings: dict[str, Any]) -> None:
        """Add, or replace the one of that name."""
        with self._database.write() as session:
            session.merge(TunePassRow(name=name, settings=settings))

    def remove(self, name: str) -> None:
        """Remove one; nothing happens when there is none of that name."""
        with self._database.write() as session:
            session.execute(delete(TunePassRow).where(TunePassRow.name == name))
