"""The foreman: the one place in the server that gives jobs out and takes their outcomes in.

What is to be done stands in the database; a queue is only the way to the workers, so nothing is lost when it is.  A
worker that was not heard of for a while has lost its task to whoever asks next.
"""

from __future__ import annotations

import threading
import time
from collections import Counter
from typing import Any, Protocol

from ...core.signal.errors import CancelledError, GlassThreadError, NotFoundError
from ...store.files.disk import sentence_of
from ...store.records import Task
from ..folder.faults import record_fault
from ..session.desk import Desk
from .jobs import Job, Outcome, content_names, job_to_data
from .making import job_of, settle
from .tasks import give_up

HEARD_S = 15.0
SENT_S = 10.0
MOST_DEATHS = 3


class Queue(Protocol):
    """The way to the workers."""

    def put(self, task_id: str, job: dict[str, Any]) -> None:
        """Send a job; OSError when the queue cannot be reached."""

    def length(self) -> int:
        """How many wait to be fetched; OSError when the queue cannot be reached."""


class Foreman:
    """Gives out the jobs of one data folder; safe to use from several threads."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.workspace = desk, desk.workspace
        self._lock = threading.RLock()
        self._heard: dict[str, tuple[str, float]] = {}  # task: its worker, and when it was last heard of
        self._sent: dict[str, float] = {}
        self._named: dict[str, frozenset[str]] = {}  # task: the content that its job names
        self._deaths: Counter[str] = Counter()
        self._settling: set[str] = set()  # done by their workers, and being taken in

    def look(self, queue: Queue) -> None:
        """Give out what waits, take back what its worker let go of, end what is to stop."""
        with self._lock:
            for task in self.workspace.tasks.unfinished():
                if task.id in self._settling:
                    continue
                if task.state == "running":
                    if time.monotonic() - self._heard.get(task.id, ("", -HEARD_S))[1] >= HEARD_S:
                        self._take_back(task)
                elif task.cancel:
                    self._give_up(task, "cancelled", "Stopped.")
                elif time.monotonic() - self._sent.get(task.id, -SENT_S) >= SENT_S:
                    self._send(task, queue)

    def job(self, task: Task) -> Job | None:
        """The job of a waiting task, or None when it needs none or cannot be: then the task is settled here."""
        try:
            job = job_of(self.desk, task)
            if job is None:
                self._settle(task, Outcome())
            return job
        except (GlassThreadError, OSError) as error:
            self._give_up(task, "failed", sentence_of(error))
        return None

    def _send(self, task: Task, queue: Queue) -> None:
        if task.id in self._sent and queue.length():  # it may still lie there
            return
        job = self.job(task)
        if job is not None:
            data = job_to_data(job)
            self._named[task.id] = content_names(data)
            queue.put(task.id, data)
            self._sent[task.id] = time.monotonic()

    def is_named(self, content: str) -> bool:
        """Whether a job that is being worked on, or waits to be, needs some content."""
        with self._lock:
            return any(content in names for names in self._named.values())

    def begin(self, task_id: str, worker: str) -> bool:
        """A worker takes a task on; False when somebody else has it or it is no longer to be done."""
        with self._lock:
            task = self._known(task_id)
            if task is None or task.state != "waiting":
                return False
            if task.cancel:
                self._give_up(task, "cancelled", "Stopped.")
                return False
            self._heard[task_id] = (worker, time.monotonic())
            self.workspace.tasks.change(task_id, state="running")
            return True

    def progress(self, task_id: str, worker: str, stage: str, share: float) -> None:
        """A worker says how far it is; CancelledError when the task is to stop or is no longer its own."""
        with self._lock:
            task = self._own(task_id, worker)
            if task is None or task.cancel:
                raise CancelledError("Stopped.")
            self._heard[task_id] = (worker, time.monotonic())
            if (task.stage, task.share) != (stage, share):
                self.workspace.tasks.change(task_id, stage=stage, share=share)

    def done(self, task_id: str, worker: str, outcome: Outcome) -> None:
        """A worker hands in what came of a task; what comes too late is thrown away.

        Taking it in may last: meanwhile other workers are heard.
        """
        with self._lock:
            task = self._own(task_id, worker)
            if task is not None and task_id in self._settling:
                return
            if task is not None:
                self._settling.add(task_id)
        try:
            if task is not None:
                self._settle(task, outcome)
        finally:
            with self._lock:
                self._settling.discard(task_id)
        with self._lock:
            if not self.workspace.tasks.unfinished():
                self.workspace.audio.clear_results()

    def ended(self, task_id: str, worker: str, state: str, message: str, trace: str = "") -> None:
        """A worker could not do a task, or stopped it."""
        with self._lock:
            task = self._own(task_id, worker)
            if task is not None:
                sentence = record_fault(self.workspace.folder, trace) if trace else message
                self._give_up(task, state, sentence)

    def died(self, worker: str) -> None:
        """A worker's process is gone: its tasks are given to another, but not for ever."""
        with self._lock:
            for task_id in [one for one, (name, _) in self._heard.items() if name == worker]:
                task = self._own(task_id, worker)
                if task is not None and task_id not in self._settling:
                    self._take_back(task)
            self._sent.clear()  # it may have fetched one and not begun it; a job that is sent twice is done once

    def _known(self, task_id: str) -> Task | None:
        try:
            return self.workspace.tasks.get(task_id)
        except NotFoundError:
            return None

    def _own(self, task_id: str, worker: str) -> Task | None:
        """The task while this worker has it."""
        task = self._known(task_id)
        mine = self._heard.get(task_id, ("", 0.0))[0] == worker
        return task if task is not None and mine and task.state == "running" else None

    def _take_back(self, task: Task) -> None:
        self._deaths[task.id] += 1
        deaths = self._deaths[task.id]
        if task.cancel:
            self._give_up(task, "cancelled", "Stopped.")
        elif deaths >= MOST_DEATHS:
            sentence = f"This was ended from outside {deaths} times, perhaps because memory ran out. Do it again later."
            self._give_up(task, "failed", sentence)
        else:
            self._forget(task)
            self.workspace.tasks.change(task.id, state="waiting", stage="Waiting", share=0.0)
            self.workspace.announce()

    def _settle(self, task: Task, outcome: Outcome) -> None:
        try:
            result = settle(self.desk, task, outcome)
        except (GlassThreadError, OSError) as error:
            self._give_up(task, "failed", sentence_of(error))
            return
        self._forget(task)
        self.workspace.tasks.change(task.id, state="done", share=1.0, stage="Done", result=result)

    def _give_up(self, task: Task, state: str, message: str) -> None:
        self._forget(task)
        give_up(self.workspace, task, state, message)

    def _forget(self, task: Task) -> None:
        self._heard.pop(task.id, None)
        self._sent.pop(task.id, None)
        self._named.pop(task.id, None)
