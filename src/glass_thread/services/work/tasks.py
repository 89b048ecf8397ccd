"""What becomes of tasks besides being done: given up, cancelled, taken up again."""

from __future__ import annotations

from ...core.signal.errors import NotFoundError
from ...store.records import Task
from ..folder.workspace import Workspace, tidy


def give_up(workspace: Workspace, task: Task, state: str, message: str) -> None:
    """End a task without a result; a track that was still being brought in goes with it."""
    if task.kind == "import" and task.track_id is not None and not _ready(workspace, task.track_id):
        workspace.tracks.forget([task.track_id])
        tidy(workspace)
    workspace.tasks.change(task.id, state=state, message=message)


def _ready(workspace: Workspace, track_id: str) -> bool:
    try:
        return workspace.tracks.get(track_id, even_removed=True).ready
    except NotFoundError:
        return False


def cancel_task(workspace: Workspace, task_id: str) -> Task:
    """Ask a task to stop at its next stage."""
    workspace.tasks.get(task_id)
    workspace.tasks.change(task_id, cancel=True)
    workspace.announce()
    return workspace.tasks.get(task_id)


def take_up_again(workspace: Workspace) -> int:
    """Have what an earlier run of the program was working on wait again; returns how many tasks wait."""
    unfinished = workspace.tasks.unfinished()
    for task in unfinished:
        workspace.tasks.change(task.id, state="waiting", stage="Waiting", share=0.0)
    return len(unfinished)
