"""The worker as a process of the server's: started, watched, started again, and never left behind."""

from __future__ import annotations

import os
import subprocess
import sys
import threading
from collections import Counter

from ..store.records import Task
from .tasks import give_up, take_up_again
from .workspace import Workspace

MOST_DEATHS = 3
LOG = "worker.log"
_LOOK_S, _PAUSE_S = 0.3, 1.0
_GRACE_S = 5.0


def keep_worker(workspace: Workspace, stop: threading.Event) -> None:
    """Run the worker until `stop` is set; when it dies, its tasks are taken up again and it is started anew."""
    deaths: Counter[str] = Counter()
    command = [sys.executable, "-m", "glass_thread", "worker", "--tied", "--data", str(workspace.folder)]
    while not stop.is_set():
        with (workspace.folder / LOG).open("ab") as log:
            process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=log, stderr=log)
        while process.poll() is None and not stop.wait(_LOOK_S):
            pass
        if stop.is_set():
            _end(process)
            return
        take_up_interrupted(workspace, deaths)
        stop.wait(_PAUSE_S)


def take_up_interrupted(workspace: Workspace, deaths: Counter[str]) -> None:
    """What a dead worker left is done again, unless it was to stop or ended its worker several times."""
    for task in workspace.tasks.unfinished():
        if task.state == "running":
            deaths[task.id] += 1
            _settle(workspace, task, deaths[task.id])
    take_up_again(workspace)


def _settle(workspace: Workspace, task: Task, deaths: int) -> None:
    if task.cancel:
        give_up(workspace, task, "cancelled", "Stopped.")
    elif deaths >= MOST_DEATHS:
        sentence = f"This was ended from outside {deaths} times, perhaps because memory ran out. Do it again later."
        give_up(workspace, task, "failed", sentence)


def _end(process: subprocess.Popen[bytes]) -> None:
    process.terminate()
    try:
        process.wait(_GRACE_S)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


def end_with_server() -> None:
    """End this process when the server that started it is gone, however that ended: then standard input closes."""

    def wait() -> None:
        sys.stdin.buffer.read()
        os._exit(0)

    threading.Thread(target=wait, daemon=True).start()
