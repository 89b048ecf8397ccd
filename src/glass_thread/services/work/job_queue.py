"""The queue between the foreman and the workers: Huey on SQLite in the data folder, or on Redis when a setting says so.

Messages are JSON and signed: whoever can write to a shared Redis but does not know the workers' token has no worker do
anything; a message that is not signed is thrown away.
"""

from __future__ import annotations

import hashlib
import json
import os
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from huey import Huey, RedisHuey, SqliteHuey
from huey.registry import Message
from huey.serializer import SignedSerializer
from redis import ConnectionPool, RedisError

from ...core.signal.errors import ParameterError

REDIS_SETTING = "GLASS_THREAD_REDIS_URL"
_CONNECT_S, _ANSWER_S = 3, 10
_Do = Callable[[str, dict[str, Any]], None]


class JsonSerializer(SignedSerializer):  # type: ignore[misc]
    """Messages as JSON objects, values as JSON, signed with the workers' token."""

    def _serialize(self, data: Any) -> bytes:
        plain = {"message": data._asdict()} if isinstance(data, Message) else {"value": data}
        return bytes(self._sign(json.dumps(plain).encode()))

    def _deserialize(self, data: bytes) -> Any:
        plain = json.loads(self._unsign(data))
        return Message(**plain["message"]) if "message" in plain else plain["value"]


def queue_name(token: str) -> str:
    """The name of a server's queue, which its workers know by the token; a Redis may serve several servers."""
    return f"glass-thread-{hashlib.sha256(token.encode()).hexdigest()[:16]}"


def uses_redis() -> bool:
    """True when a setting names a Redis."""
    return bool(os.environ.get(REDIS_SETTING))


def _open(token: str, folder: Path) -> Huey:
    url = os.environ.get(REDIS_SETTING)
    if not url:
        return _open_file(queue_name(token), folder / "queue.sqlite3", JsonSerializer(token))
    try:
        pool = ConnectionPool.from_url(url, socket_connect_timeout=_CONNECT_S, socket_timeout=_ANSWER_S)
    except ValueError as error:
        raise ParameterError(f"{REDIS_SETTING} is not the address of a Redis, such as redis://host:6379/0.") from error
    return RedisHuey(queue_name(token), connection_pool=pool, serializer=JsonSerializer(token))


def _open_file(name: str, path: Path, serializer: JsonSerializer) -> Huey:
    """The queue in the data folder; one that is damaged is made anew, as what is to be done stands in the database."""
    try:
        return SqliteHuey(name, filename=str(path), fsync=True, serializer=serializer)
    except sqlite3.DatabaseError as error:
        if isinstance(error, sqlite3.OperationalError):
            raise OSError(f"the queue cannot be reached: {error}") from error
        for one in (path, *(path.with_name(path.name + end) for end in ("-wal", "-shm", "-journal"))):
            one.unlink(missing_ok=True)
        return SqliteHuey(name, filename=str(path), fsync=True, serializer=serializer)


@contextmanager
def _as_os_error() -> Iterator[None]:
    try:
        yield
    except (RedisError, sqlite3.Error) as error:
        raise OSError(f"the queue cannot be reached: {error}") from error


class JobQueue:
    """Sends jobs to workers, or has them done."""

    def __init__(self, token: str, folder: Path, do: _Do = lambda _task_id, _job: None) -> None:
        self._huey = _open(token, folder)

        @self._huey.task(name="do")  # under the same name in every process, whatever it does there
        def run(task_id: str, job: dict[str, Any]) -> None:
            do(task_id, job)

        self._send = run

    def put(self, task_id: str, job: dict[str, Any]) -> None:
        """Send a job; OSError when the queue cannot be reached."""
        with _as_os_error():
            self._send(task_id, job)

    def length(self) -> int:
        """How many wait to be fetched; OSError when the queue cannot be reached."""
        with _as_os_error():
            return int(self._huey.pending_count())

    def clear(self) -> None:
        """Throw away what an earlier run of the program sent; the foreman sends what is still to be done."""
        with suppress(OSError), _as_os_error():  # it is sent again anyway; done twice it is not
            self._huey.flush()

    def work(self) -> None:
        """Do jobs until interrupted; a queue that goes away is waited for."""
        self._huey.create_consumer(workers=1, worker_type="thread", initial_delay=0.05, max_delay=0.3).run()
