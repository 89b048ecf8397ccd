"""A worker: fetches jobs from the queue, carries them out, hands in what came of them."""

from __future__ import annotations

import os
import socket
import sys
import threading
import uuid
from pathlib import Path
from typing import Any

from ...core.signal.errors import ParameterError
from .carry_out import carry_out
from .far_depot import FarDepot
from .folder_depot import FolderDepot
from .job_queue import REDIS_SETTING, JobQueue, uses_redis
from .jobs import Depot, job_from_data
from .server_link import ServerLink


def work_here(server: str, token: str, folder: Path, name: str) -> None:
    """Work beside a server, on its own data folder, until interrupted."""
    link = ServerLink(server, token, name)
    _work(link, FolderDepot(folder), token, folder)


def work_afar(server: str, token: str, folder: Path, name: str = "") -> None:
    """Work for a server on another machine, with a folder of one's own, until interrupted.

    Raises
    ------
    ParameterError
        If there is no queue between the machines, or the server does not take this worker.
    """
    if not uses_redis():
        raise ParameterError(f"Set {REDIS_SETTING} to the Redis that the server uses, such as redis://host:6379/0.")
    link = ServerLink(server, token, name or f"{socket.gethostname()}-{uuid.uuid4().hex[:8]}")
    link.greet()
    try:
        JobQueue(token, folder).length()
    except OSError as error:
        raise ParameterError(f"No Redis answers at the address in {REDIS_SETTING}.") from error
    _work(link, FarDepot(folder, link), token, folder)


def _work(link: ServerLink, depot: Depot, token: str, folder: Path) -> None:
    def do(task_id: str, job: dict[str, Any]) -> None:
        stop = threading.Event()
        beating = threading.Thread(target=link.beat, args=(stop,), daemon=True)
        beating.start()
        try:
            carry_out(task_id, job_from_data(job), link, depot)
        finally:
            link.rest()
            stop.set()

    JobQueue(token, folder, do).work()


def end_with_server() -> None:
    """End this process when the server that started it is gone, however that ended: then standard input closes."""

    def wait() -> None:
        sys.stdin.buffer.read()
        os._exit(0)

    threading.Thread(target=wait, daemon=True).start()
