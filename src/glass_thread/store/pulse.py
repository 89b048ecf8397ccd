"""Noticing that something was written to the database, by whichever thread or process."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

from sqlalchemy import text

from .database import Database

LOOK_EVERY_S = 0.05


class Pulse:
    """Looks at the database's own count of commits while somebody listens; safe to use from several threads.

    SQLite's ``data_version`` differs whenever another connection has committed; looking costs some microseconds.
    """

    def __init__(self, database: Database) -> None:
        self._database = database
        self._changed = threading.Condition()
        self._count, self._listeners, self._looking = 0, 0, False

    def listen(self) -> Callable[[], None]:
        """Begin to look, if nobody listened before; returns what ends it."""
        with self._changed:
            self._listeners += 1
            if not self._looking:
                self._looking = True
                threading.Thread(target=self._look, name="pulse", daemon=True).start()
        return self._leave

    def _leave(self) -> None:
        with self._changed:
            self._listeners -= 1

    def after(self, count: int, timeout_s: float) -> int:
        """Wait until more was written than at `count`, or for so long; returns the count then."""
        with self._changed:
            self._changed.wait_for(lambda: self._count != count, timeout_s)
            return self._count

    def _look(self) -> None:
        with self._database.look() as connection:
            asked, known = text("PRAGMA data_version"), None
            while True:
                now = connection.execute(asked).scalar()
                connection.rollback()
                with self._changed:
                    if self._listeners == 0:
                        self._looking = False
                        return
                    if now != known:
                        known = now
                        self._count += 1
                        self._changed.notify_all()
                time.sleep(LOOK_EVERY_S)
