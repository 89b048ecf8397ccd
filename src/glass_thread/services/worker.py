"""The background queue: Huey on SQLite in the data folder, or on Redis when a setting names one."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import Any

from huey import Huey, RedisHuey, SqliteHuey

from .import_audio import run_analyse, run_import
from .print import run_print
from .tasks import Work, run_task
from .workspace import open_workspace

REDIS_SETTING = "GLASS_THREAD_REDIS_URL"
WORKS: dict[str, Work] = {"import": run_import, "analyse": run_analyse, "print": run_print}


def open_queue(folder: Path) -> tuple[Huey, Callable[[str], Any]]:
    """The queue of a data folder and the callable that puts a task id on it."""
    url = os.environ.get(REDIS_SETTING)
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    queue: Huey = (
        RedisHuey("glass-thread", url=url)
        if url
        else SqliteHuey("glass-thread", filename=str(folder / "queue.sqlite3"), fsync=True)
    )

    @queue.task(name="run")
    def run(task_id: str) -> None:
        workspace = open_workspace(folder)
        try:
            run_task(workspace, task_id, WORKS)
        finally:
            workspace.close()

    return queue, run


def work(folder: Path, *, workers: int = 1) -> None:
    """Work on the queue until interrupted."""
    queue, _run = open_queue(folder)
    consumer = queue.create_consumer(workers=workers, worker_type="thread", initial_delay=0.05, max_delay=0.4)
    consumer.run()
