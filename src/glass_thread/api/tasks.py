"""Long work: progress, cancel, forget."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from ..services.work.tasks import cancel_task
from .context import workspace
from .schemas.songs import TaskOut

task_routes = APIBlueprint("tasks", __name__, tag="Tasks")


@task_routes.get("/tasks/<task_id>")
@task_routes.output(TaskOut)
def get_task(task_id: str) -> Any:
    """State and progress."""
    return workspace().tasks.get(task_id)


@task_routes.post("/tasks/<task_id>/cancel")
@task_routes.output(TaskOut)
def post_cancel(task_id: str) -> Any:
    """Ask it to stop."""
    return cancel_task(workspace(), task_id)


@task_routes.delete("/tasks/<task_id>")
@task_routes.output({}, status_code=204)
def delete_task(task_id: str) -> str:
    """Forget a task, for example a failure that was read."""
    workspace().tasks.get(task_id)
    workspace().tasks.remove(task_id)
    return ""
