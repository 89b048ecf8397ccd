"""Carry tasks out in this process, for the demo song, the benchmark and the tests."""

from __future__ import annotations

from ..folder.workspace import Workspace
from ..session.desk import Desk
from .carry_out import carry_out
from .folder_depot import FolderDepot
from .foreman import Foreman
from .jobs import Outcome

_NAME = "here"


class _Here:
    """The foreman as one worker in the same process sees it."""

    def __init__(self, foreman: Foreman) -> None:
        self._foreman = foreman

    def begin(self, task_id: str) -> bool:
        return self._foreman.begin(task_id, _NAME)

    def progress(self, task_id: str, stage: str, share: float) -> None:
        self._foreman.progress(task_id, _NAME, stage, share)

    def done(self, task_id: str, outcome: Outcome) -> None:
        self._foreman.done(task_id, _NAME, outcome)

    def ended(self, task_id: str, state: str, message: str, trace: str = "") -> None:
        self._foreman.ended(task_id, _NAME, state, message, trace)


def run_task(workspace: Workspace, task_id: str) -> None:
    """Run one waiting task to its end; every outcome is stored, none is raised."""
    foreman = Foreman(Desk(workspace))
    task = workspace.tasks.get(task_id)
    if task.state != "waiting":
        return
    job = foreman.job(task)
    if job is not None:
        carry_out(task_id, job, _Here(foreman), FolderDepot(workspace.folder))
