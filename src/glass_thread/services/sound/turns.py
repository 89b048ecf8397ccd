"""Sound that is waited for goes before sound that is loaded ahead."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

_LONGEST_S = 1.0  # so that what is loaded ahead comes too while sound is asked for all the time


class Turns:
    """Who renders when several threads would; safe to use from them."""

    def __init__(self) -> None:
        self._waited_for = 0
        self._changed = threading.Condition()

    @contextmanager
    def first(self) -> Iterator[None]:
        """While somebody waits for what is made here, others give way."""
        with self._changed:
            self._waited_for += 1
        try:
            yield
        finally:
            with self._changed:
                self._waited_for -= 1
                self._changed.notify_all()

    def give_way(self) -> bool:
        """Wait until nobody waits for a sound; False when that took too long."""
        with self._changed:
            return self._changed.wait_for(lambda: self._waited_for == 0, timeout=_LONGEST_S)
