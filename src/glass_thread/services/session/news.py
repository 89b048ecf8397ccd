"""What is new in a song, for every window that shows it."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Iterator
from typing import Any

from ...core.signal.errors import NotFoundError
from ...store.pulse import Pulse
from ..folder.workspace import Workspace

STILL_HERE_S = 10.0
MOST_LISTENERS = 16


class News:
    """Tells windows how a song stands whenever that changes; safe to use from several threads.

    A window more than there is room for takes the place of the one that has listened longest, which asks anew.
    """

    def __init__(self, workspace: Workspace) -> None:
        self._workspace, self._pulse = workspace, Pulse(workspace.database)
        self._lock = threading.Lock()
        self._listening: deque[threading.Event] = deque()

    def of(self, song_id: str) -> Iterator[dict[str, Any] | None]:
        """How a song stands, now and after every change; None when nothing changed for a while; ends when it is gone.

        Each is its log's turn and the head of every version by track.
        """
        self._workspace.songs.get(song_id)
        return self._told(song_id)

    def _told(self, song_id: str) -> Iterator[dict[str, Any] | None]:
        over, leave = self._enter(), self._pulse.listen()
        count, told = 0, None
        try:
            while not over.is_set():
                now = self._stand(song_id)
                if now is None:
                    return
                if now != told:
                    told = now
                    yield now
                count, before = self._pulse.after(count, STILL_HERE_S), count
                if count == before:
                    yield None
        finally:
            leave()
            with self._lock:
                if over in self._listening:
                    self._listening.remove(over)

    def _enter(self) -> threading.Event:
        over = threading.Event()
        with self._lock:
            self._listening.append(over)
            if len(self._listening) > MOST_LISTENERS:
                self._listening.popleft().set()
        return over

    def _stand(self, song_id: str) -> dict[str, Any] | None:
        try:
            self._workspace.songs.get(song_id)
        except NotFoundError:
            return None
        return {"turn": self._workspace.log.turn(song_id), "heads": self._workspace.history.heads(song_id)}
