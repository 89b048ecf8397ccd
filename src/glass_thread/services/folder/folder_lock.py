"""One server to a data folder: the second is told so before it touches anything."""

from __future__ import annotations

import fcntl
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from ...core.signal.errors import ConflictError

LOCK = "server.lock"


@contextmanager
def folder_lock(folder: Path) -> Iterator[None]:
    """Hold a data folder; the system lets go of it however the process ends.

    Raises
    ------
    ConflictError
        If another server holds it.
    """
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    with (folder / LOCK).open("a") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise ConflictError(
                f"Glass Thread already runs on {folder}; use that one, end it first, or choose another with --data."
            ) from None
        yield
