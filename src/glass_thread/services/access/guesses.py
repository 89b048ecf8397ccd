"""How often one may guess a code."""

from __future__ import annotations

import threading
import time
from collections import deque

MOST, WITHIN_S = 5, 60.0
_MOST_ADDRESSES = 10_000


class Guesses:
    """Wrong codes by the address they came from; safe to use from several threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._wrong: dict[str, deque[float]] = {}

    def wait_s(self, address: str) -> float:
        """For how many seconds an address may not guess; 0 when it may now."""
        with self._lock:
            wrong = self._recent(address)
            return WITHIN_S - (time.monotonic() - wrong[0]) if len(wrong) >= MOST else 0.0

    def wrong(self, address: str) -> None:
        """A wrong code came from an address."""
        with self._lock:
            if len(self._wrong) >= _MOST_ADDRESSES:
                self._wrong = {name: times for name in list(self._wrong) if (times := self._recent(name))}
            self._wrong.setdefault(address, deque(maxlen=MOST)).append(time.monotonic())

    def _recent(self, address: str) -> deque[float]:
        times = self._wrong.get(address, deque())
        while times and time.monotonic() - times[0] > WITHIN_S:
            times.popleft()
        return times
