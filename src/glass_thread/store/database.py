"""Opening the database: migrations first, then short transactions on a durable SQLite file."""

from __future__ import annotations

import errno
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import create_engine, event, inspect
from sqlalchemy.engine import Connection, Engine
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

MIGRATIONS = Path(__file__).parent / "migrations"


class Database:
    """One SQLite file; every write is on disk before `write` returns."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self.engine: Engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 20})
        event.listen(self.engine, "connect", _prepare_connection)
        self._session = sessionmaker(self.engine, expire_on_commit=False)
        self._upgrade()

    def _upgrade(self) -> None:
        if self._is_new_enough():
            return
        from alembic import command  # only here: most starts need none of it
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def _is_new_enough(self) -> bool:
        """Whether the newest migration has been applied; their files are named by number."""
        newest = max(path.name.split("_")[0] for path in (MIGRATIONS / "versions").glob("[0-9]*.py"))
        with self.engine.connect() as connection:
            if not inspect(connection).has_table("alembic_version"):
                return False
            return connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar() == newest

    @contextmanager
    def read(self) -> Iterator[Session]:
        """A session for walking along rows; nothing is committed."""
        with _as_os_error(), self._session() as session:
            yield session
            session.rollback()

    @contextmanager
    def look(self) -> Iterator[Connection]:
        """A connection for plain reading, which costs a third of a session."""
        with _as_os_error(), self.engine.connect() as connection:
            yield connection

    @contextmanager
    def write(self) -> Iterator[Session]:
        """One transaction; the write lock is taken at its start, so that no two writers interleave."""
        with _as_os_error(), self._session() as session:
            session.connection().exec_driver_sql("BEGIN IMMEDIATE")
            yield session
            session.commit()

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()


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
