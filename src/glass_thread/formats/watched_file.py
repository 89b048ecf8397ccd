"""A file for a library to write through, which keeps the reason when the disk does not take it."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


class WatchedFile:
    """The part of a binary file that libsndfile needs; it knows that writing failed, but not why."""

    def __init__(self, path: Path) -> None:
        self._file = path.open("w+b", buffering=1 << 16)
        self.failure: OSError | None = None

    def write(self, data: bytes) -> int:
        """Write all or, after a failure, nothing."""
        if self.failure is None:
            try:
                return self._file.write(data)
            except OSError as error:
                self.failure = error
        return 0

    def seek(self, offset: int, whence: int = os.SEEK_SET) -> int:
        """Move; what is buffered may have to be written first."""
        try:
            return self._file.seek(offset, whence)
        except OSError as error:
            self.failure = self.failure or error
            return 0

    def tell(self) -> int:
        """Where the next byte goes."""
        return self._file.tell()

    def read(self, size: int) -> bytes:
        """Bytes written before."""
        return self._file.read(size)

    def close(self) -> None:
        """Close; raises what went wrong, now or before."""
        try:
            self._file.close()
        except OSError as error:
            self.failure = self.failure or error
        if self.failure is not None:
            raise self.failure


@contextmanager
def watched(path: Path) -> Iterator[WatchedFile]:
    """A file to write through; a full disk leaves as the OSError it is, whatever the library made of it."""
    file = WatchedFile(path)
    try:
        yield file
    except Exception:
        if file.failure is not None:
            raise file.failure from None
        raise
    finally:
        file.close()
