"""Long work with progress and cancel, independent of what runs it."""

from __future__ import annotations

import logging
from collections.abc import Callable, Mapping
from typing import Any

from ..core.signal.errors import CancelledError, GlassThreadError
from ..store.disk import storage_sentence
from ..store.records import Task
from .workspace import Workspace, tidy

Reporter = Callable[[str, float], None]
Work = Callable[[Workspace, Task, Reporter], dict[str, Any]]
log = logging.getLogger(__name__)


def reporter(workspace: Workspace, task_id: str) -> Reporter:
    """A progress callable that stores stage and share, and raises CancelledError when the user asked to stop."""

    def report(stage: str, share: float) -> None:
        if workspace.tasks.get(task_id).cancel:
            raise CancelledError("Stopped.")
        workspace.tasks.change(task_id, stage=stage, share=share)

    return report


def run_task(workspace: Workspace, task_id: str, works: Mapping[str, Work]) -> None:
    """Run one task to its end; every outcome is stored, none is raised."""
    task = workspace.tasks.get(task_id)
    if task.state not in ("waiting", "running"):
        return
    workspace.tasks.change(task_id, state="running")
    try:
        result = works[task.kind](workspace, task, reporter(workspace, task_id))
    except CancelledError:
        workspace.tasks.change(task_id, state="cancelled", message="Stopped.")
    except GlassThreadError as error:
        workspace.tasks.change(task_id, state="failed", message=str(error))
    except OSError as error:
        workspace.tasks.change(task_id, state="failed", message=storage_sentence(error))
    except Exception:
        log.exception("task %s failed", task_id)
        workspace.tasks.change(task_id, state="failed", message="This did not work because of a fault in the program.")
    else:
        workspace.tasks.change(task_id, state="done", share=1.0, stage="Done", result=result)


def give_up(workspace: Workspace, task: Task, state: str, message: str) -> None:
    """End a task that nobody works on; a track that was still being brought in goes with it."""
    if task.kind == "import" and task.track_id is not None:
        workspace.tracks.remove(task.track_id)
        tidy(workspace)
    workspace.tasks.change(task.id, state=state, message=message)


def cancel_task(workspace: Workspace, task_id: str) -> Task:
    """Ask a task to stop at its next stage."""
    workspace.tasks.get(task_id)
    workspace.tasks.change(task_id, cancel=True)
    return workspace.tasks.get(task_id)


def take_up_again(workspace: Workspace) -> int:
    """Hand unfinished tasks of an earlier run to the worker again; returns how many."""
    unfinished = workspace.tasks.unfinished()
    for task in unfinished:
        workspace.tasks.change(task.id, state="waiting", stage="Waiting", share=0.0)
        workspace.enqueue(task.id)
    return len(unfinished)
