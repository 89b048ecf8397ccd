"""Pitch marks of the track that was opened last, found while nobody waits for a sound: its first edits have them."""

from __future__ import annotations

import threading
import time
from contextlib import suppress
from typing import NamedTuple

from ...core.plan.plan import Plan
from ...core.synthesis.render import voiced_runs
from .sound import Sound
from .turns import Turns


class _Opened(NamedTuple):
    audio_hash: str
    plan: Plan


class MarksAhead:
    """Who finds them, in a thread that lasts as long as there is something to find; safe to use from several."""

    def __init__(self, sound: Sound, turns: Turns) -> None:
        self._sound, self._turns = sound, turns
        self._wanted: _Opened | None = None
        self._worker: threading.Thread | None = None
        self._lock = threading.Lock()

    def find(self, audio_hash: str, plan: Plan) -> None:
        """Find those of a track; those of the one before are given up."""
        with self._lock:
            self._wanted = _Opened(audio_hash, plan)
            if self._worker is None:
                self._worker = threading.Thread(target=self._work, daemon=True)
                self._worker.start()

    def rest(self) -> None:
        """Wait until nothing is left to find."""
        while (worker := self._worker) is not None:
            worker.join()

    def _work(self) -> None:
        while (opened := self._next()) is not None:
            with suppress(Exception):  # whatever it is, it comes again and is said when the sound is asked for
                self._mark(opened)

    def _next(self) -> _Opened | None:
        with self._lock:
            opened, self._wanted = self._wanted, None
            if opened is None:
                self._worker = None
            return opened

    def _mark(self, opened: _Opened) -> None:
        source = self._sound.heard(self._sound.source(opened.audio_hash), opened.plan)
        for first, last in voiced_runs(opened.plan.contour):
            self._turns.give_way()
            if self._wanted is not None:
                return
            begun = time.monotonic()
            self._sound.prepared(source, opened.plan, first, last)
            time.sleep(time.monotonic() - begun)  # half of the time is others'
