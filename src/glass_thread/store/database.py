"""Opening the database: migrations first, then short transactions on a durable SQLite file."""

from __future__ import annotations

import errno
import re
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import URL, create_engine, event, inspect
from sqlalchemy.engine import Connection, Engine
from sqlalchemy.exc import DatabaseError, OperationalError
from sqlalchemy.orm import Session, sessionmaker

from ..core.signal.errors import ParameterError

MIGRATIONS = Path(__file__).parent / "migrations"
MIGRATIONS_KNOWN = sorted(path.name.split("_")[0] for path in (MIGRATIONS / "versions").glob("[0-9]*.py"))
NEWEST = MIGRATIONS_KNOWN[-1]
# What reading pages of a damaged file may end in: their text need not be text.
UNREADABLE = (DatabaseError, sqlite3.DatabaseError, UnicodeDecodeError)
_UNREADABLE_TEXT = re.compile("decode|malformed|no such (table|column)")


class Database:
    """One SQLite file; every write is on disk before `write` returns."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self._path = path
        url = URL.create("sqlite", database=str(path))  # whatever is in its name
        # As many connections as threads ask for: one that has a connection and waits for a second one waits for itself.
        self.engine: Engine = create_engine(url, connect_args={"timeout": 20}, max_overflow=-1)
        event.listen(self.engine, "connect", _prepare_connection)
        self._session = sessionmaker(self.engine, expire_on_commit=False)
        self._own = threading.local()  # the session that a thread writes within, while it is in `at_once`
        self._upgrade()

    def _upgrade(self) -> None:
        """Bring the tables to this release's: all of it or, when it is stopped in the middle, nothing."""
        try:
            self._upgrade_tables()
        except UNREADABLE as error:
            self.engine.dispose()
            if isinstance(error, OperationalError) and not _UNREADABLE_TEXT.search(str(error.orig)):
                raise
            raise damaged(self._path) from error

    def _upgrade_tables(self) -> None:
        with self.engine.connect() as connection:
            if _migrated_to(connection) == NEWEST:
                return
            # Rebuilding a table drops the old one, which would take along what refers to it.
            connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            before = _migrated_to(connection)
            if before == NEWEST:  # by another process meanwhile
                connection.rollback()
            else:
                if before is not None:
                    self._keep_a_copy(before)
                _migrate(connection)
                connection.commit()
            connection.exec_driver_sql("PRAGMA foreign_keys=ON")

    def _keep_a_copy(self, before: str) -> None:
        """Copy the database as an earlier release left it beside it, whole or not at all."""
        kept = self._path.with_name(f"{self._path.stem} before {NEWEST}, from {before}{self._path.suffix}")
        part = kept.with_name(f"{kept.name}.part")
        with closing(sqlite3.connect(self._path)) as source, closing(sqlite3.connect(part)) as target:
            source.backup(target)
        part.replace(kept)

    def refuse_damage(self) -> None:
        """Look through the whole file; ParameterError when SQLite finds a page that cannot be."""
        try:
            with self.engine.connect() as connection:
                found = connection.exec_driver_sql("PRAGMA quick_check(1)").scalar()
        except UNREADABLE as error:
            raise damaged(self._path) from error
        if found != "ok":
            raise damaged(self._path)

    @contextmanager
    def read(self) -> Iterator[Session]:
        """A session for walking along rows; nothing is committed."""
        if self._joined is not None:
            yield self._joined
            return
        with _as_os_error(), self._session() as session:
            yield session
            session.rollback()

    @contextmanager
    def look(self) -> Iterator[Connection]:
        """A connection for plain reading, which costs a third of a session."""
        if self._joined is not None:
            self._joined.flush()
            yield self._joined.connection()
            return
        with _as_os_error(), self.engine.connect() as connection:
            yield connection

    @contextmanager
    def write(self) -> Iterator[Session]:
        """One transaction; the write lock is taken at its start, so that no two writers interleave."""
        if self._joined is not None:
            yield self._joined
            self._joined.flush()
            return
        with _as_os_error(), self._session() as session:
            session.connection().exec_driver_sql("BEGIN IMMEDIATE")
            yield session
            session.commit()

    @contextmanager
    def at_once(self) -> Iterator[None]:
        """Make all that this thread writes within it one transaction, on disk as a whole or not at all."""
        if self._joined is not None:
            yield
            return
        with self.write() as session:
            self._own.session = session
            try:
                yield
            finally:
                self._own.session = None

    @property
    def _joined(self) -> Session | None:
        return getattr(self._own, "session", None)

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()


def damaged(path: Path) -> ParameterError:
    """What is said of a database that SQLite cannot read."""
    return ParameterError(
        f"The database of this data folder is damaged ({path}); nothing was changed. Put back a copy of it, or save "
        "what can be read with “glass-thread rescue FOLDER NEW”; recordings lie in its “audio”, prints in “prints”."
    )


def _migrated_to(connection: Connection) -> str | None:
    """The number of the last migration of a database; None when it is new.

    Raises
    ------
    ParameterError
        When a newer release has written it.
    """
    if not inspect(connection).has_table("alembic_version"):
        return None
    number = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
    if number is not None and len(str(number)) != len(NEWEST):
        raise sqlite3.DatabaseError("the number of the last migration is none")
    if number is not None and str(number) > NEWEST:
        raise ParameterError(
            f"This data folder was last used by a newer Glass Thread (its tables are {number}, this program knows "
            f"{NEWEST}). Use that one, or another folder."
        )
    return None if number is None else str(number)


def _migrate(connection: Connection) -> None:
    from alembic import command  # only here: most starts need none of it

    command.upgrade(_alembic(connection), "head")


def laid_back(path: Path, number: str) -> None:
    """Bring a database to the layout of an earlier release, as that would have left it; for tests and benchmarks."""
    _brought_to(path, number, back=True)


def laid_out(path: Path, number: str) -> None:
    """Make an empty database as an earlier release made it; what has no such number is none that is known."""
    _brought_to(path, number, back=False)


def _brought_to(path: Path, number: str, *, back: bool) -> None:
    from alembic import command

    engine = create_engine(URL.create("sqlite", database=str(path)))
    event.listen(engine, "connect", _prepare_connection)
    with engine.connect() as connection:
        connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
        connection.exec_driver_sql("BEGIN IMMEDIATE")
        (command.downgrade if back else command.upgrade)(_alembic(connection), number)
        connection.commit()
    engine.dispose()


def _alembic(connection: Connection) -> Any:
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["connection"] = connection
    return config


@contextmanager
def _as_os_error() -> Iterator[None]:
    """A disk that is full, locked or damaged fails alike whether SQLite or a file meets it."""
    try:
        yield
    except OperationalError as error:
        text = str(error.orig)
        code = errno.ENOSPC if "full" in text else errno.EBUSY if "locked" in text else errno.EIO
        code = errno.EROFS if "readonly" in text else code
        raise OSError(code, text) from error


def _prepare_connection(connection, _record) -> None:  # type: ignore[no-untyped-def]
    connection.isolation_level = None  # transactions are begun by hand, see `write`
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()
