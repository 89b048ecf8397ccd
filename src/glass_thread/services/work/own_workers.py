"""The server's own workers as processes: as many as there is work for, watched, replaced, and never left behind."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

from ..folder.faults import record_fault
from ..folder.workspace import Workspace
from .foreman import Foreman, Queue
from .token import TOKEN_SETTING

LOG = "worker.log"
_LARGEST_LOG = 4 << 20
_LOOK_S, _PAUSE_S = 0.3, 1.0
_GRACE_S = 5.0
_SPARE_AFTER_S = 6.0  # a worker waits ready for the first task, but does not hold up the start of the server
_FAULTS_TOLD = 20
# One core a worker, so that several get on side by side and the sound of an edit finds one free.
_ONE_CORE = {name: "1" for name in ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "NUMBA_NUM_THREADS")}


def cores() -> int:
    """Cores this process may use."""
    return len(os.sched_getaffinity(0))


class OwnWorkers:
    """Processes that work on the data folder for the server at an address."""

    def __init__(self, workspace: Workspace, foreman: Foreman, server: str, token: str, most: int) -> None:
        self._workspace, self._foreman, self._most = workspace, foreman, most
        self._server, self._token = server, token
        self._running: dict[str, subprocess.Popen[bytes]] = {}
        self._started, self._begun = 0, time.monotonic()

    def look(self) -> bool:
        """Replace what died and start what there is work for; False when one died, so that there is a pause."""
        died = [name for name, process in self._running.items() if process.poll() is not None]
        for name in died:
            del self._running[name]
            self._foreman.died(name)
        spare = time.monotonic() - self._begun > _SPARE_AFTER_S
        wanted = min(self._most, max(int(spare), len(self._workspace.tasks.unfinished())))
        while not died and len(self._running) < wanted:
            self._start()
        return not died

    def _start(self) -> None:
        self._started += 1
        name = f"own-{os.getpid()}-{self._started}"
        command = [sys.executable, "-m", "glass_thread", "worker", "--tied", "--server", self._server, "--name", name,
                   "--data", str(self._workspace.folder)]  # fmt: skip
        environment = {**os.environ, **_ONE_CORE, TOKEN_SETTING: self._token}
        with _log(self._workspace.folder / LOG) as log:
            self._running[name] = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=log, stderr=log,
                                                   env=environment)  # fmt: skip

    def end(self) -> None:
        """End them all."""
        for process in self._running.values():
            process.terminate()
        for process in self._running.values():
            try:
                process.wait(_GRACE_S)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()


def _log(path: Path) -> BinaryIO:
    if path.is_file() and path.stat().st_size > _LARGEST_LOG:
        path.replace(path.with_suffix(".log.1"))
    return path.open("ab")


def keep_working(
    foreman: Foreman, queue: Queue, workers: OwnWorkers, wake: threading.Event, stop: threading.Event,
    said: Callable[[str], None] = lambda _sentence: None,
) -> None:  # fmt: skip
    """Give out work and keep the workers going until `stop` is set."""
    away, faults = False, 0
    try:
        while not stop.is_set():
            pause = _LOOK_S
            try:
                pause = _LOOK_S if workers.look() else _PAUSE_S
                foreman.look(queue)
                away = False
            except OSError as error:
                if not away:
                    said(f"Work waits: {error}")
                away = True
            except Exception:  # whatever it is, the next task must not wait for ever
                if faults < _FAULTS_TOLD:
                    said(record_fault(foreman.workspace.folder, traceback.format_exc()))
                faults += 1
            wake.wait(pause)
            wake.clear()
    finally:
        workers.end()
