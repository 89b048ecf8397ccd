"""What a process remembers, bounded by bytes."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Value = TypeVar("Value")


class ByteCache(Generic[Value]):
    """The values used last, as many as fit into `most_bytes`; safe to use from several threads."""

    def __init__(self, most_bytes: int, size: Callable[[Value], int]) -> None:
        self._most, self._size = most_bytes, size
        self._held = 0
        self._values: OrderedDict[Hashable, tuple[Value, int]] = OrderedDict()
        self._making: dict[Hashable, threading.Lock] = {}
        self._lock = threading.Lock()

    def get(self, key: Hashable) -> Value | None:
        """The value of a key, or None."""
        with self._lock:
            found = self._values.get(key)
            if found is None:
                return None
            self._values.move_to_end(key)
            return found[0]

    def keep(self, key: Hashable, value: Value) -> Value:
        """Remember a value; returns it."""
        size = self._size(value)
        with self._lock:
            before = self._values.pop(key, None)
            self._held += size - (before[1] if before else 0)
            self._values[key] = (value, size)
            while self._held > self._most and len(self._values) > 1:
                self._held -= self._values.popitem(last=False)[1][1]
        return value

    def made(self, key: Hashable, make: Callable[[], Value]) -> Value:
        """The value of a key, made and remembered when it is not there; who asks for it meanwhile waits for it."""
        known = self.get(key)
        if known is not None:
            return known
        with self._lock:
            turn = self._making.setdefault(key, threading.Lock())
        try:
            with turn:
                known = self.get(key)
                return self.keep(key, make()) if known is None else known
        finally:
            with self._lock:
                self._making.pop(key, None)

    @property
    def held_bytes(self) -> int:
        """What is held now."""
        return self._held
