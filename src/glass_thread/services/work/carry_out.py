"""Carry one job out and say how it went; every outcome is said, none is raised."""

from __future__ import annotations

import traceback
from typing import Protocol

from ...core.signal.errors import CancelledError, GlassThreadError
from ...store.files.disk import sentence_of
from .jobs import Depot, Job, Outcome


class Boss(Protocol):
    """Who gave the job and hears how it goes."""

    def begin(self, task_id: str) -> bool:
        """Take a task on; False when it is no longer to be done."""

    def progress(self, task_id: str, stage: str, share: float) -> None:
        """Say how far it is; CancelledError when it is to stop."""

    def done(self, task_id: str, outcome: Outcome) -> None:
        """It went well."""

    def ended(self, task_id: str, state: str, message: str, trace: str = "") -> None:
        """It ended otherwise: failed or cancelled, with a sentence; `trace` is for the log when it was a fault."""


def carry_out(task_id: str, job: Job, boss: Boss, depot: Depot) -> None:
    """Do a job to its end."""
    if not boss.begin(task_id):
        return
    try:
        outcome = job.do(depot, lambda stage, share: boss.progress(task_id, stage, share))
    except CancelledError:
        boss.ended(task_id, "cancelled", "Stopped.")
    except (GlassThreadError, OSError) as error:
        boss.ended(task_id, "failed", sentence_of(error))
    except Exception:
        boss.ended(task_id, "failed", "", traceback.format_exc())
    else:
        boss.done(task_id, outcome)
