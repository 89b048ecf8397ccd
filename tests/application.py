"""The real application in a process of its own."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from pathlib import Path
from typing import TypeVar

from glass_thread.bench.hostile.server_process import ServerProcess

PATIENCE_S = int(os.environ.get("GLASS_THREAD_PATIENCE_MS", "180000")) / 1000  # a slow machine is no failure
FRONT_END = Path(__file__).parent.parent / ".cache" / "web_for_tests"
Found = TypeVar("Found")


def until(condition: Callable[[], Found], what: str, patience_s: float = PATIENCE_S) -> Found:
    """Wait for something to be true; returns it."""
    end = time.monotonic() + patience_s
    while not (found := condition()):
        if time.monotonic() > end:
            raise AssertionError(f"waited in vain for {what}")
        time.sleep(0.02)
    return found


class Application(ServerProcess):
    """``glass-thread demo`` (or `verb`) with the front end that tests can ask what it plays."""

    def __init__(self, folder: Path, verb: str = "demo") -> None:
        super().__init__(folder, verb)

    def command(self) -> list[str]:
        """How it is started."""
        return [*super().command(), "--front-end", str(FRONT_END)]
