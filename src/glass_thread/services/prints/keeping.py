"""Finished prints: kept with what they were made of, and handed over; a folder that fails loses no print."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from ...core.signal.errors import AudioError, GlassThreadError, NotFoundError
from ...store.files.disk import sentence_of
from ...store.records import Print, Task
from ..session.desk import Desk
from .handoff import hand_over
from .print_layout import Layout
from .print_writer import PrintSummary
from .printing import as_asked, print_file


def layout_of_task(wanted: dict[str, Any]) -> Layout | None:
    """What a print holds; None for one that an earlier release asked for, which is of the whole."""
    data = wanted.get("layout")
    return Layout.from_data(data) if data else None


def keep_print(desk: Desk, task: Task, file: str, summary: PrintSummary) -> dict[str, Any]:
    """Keep what was made for a task, a file by content, as a print, and hand it over when that was asked for; the
    values of the task's result."""
    container = task.wanted.get("container", "wav")
    name = f"{task.id}.{container}"  # the same when it is kept again after this was stopped half-way
    audio = desk.workspace.audio
    audio.take_result(file, audio.print_path(name))
    shown = task.wanted.get("shown_name") or f"print.{container}"
    made = desk.workspace.prints.add(task, file=name, shown_name=shown, made_of=task.wanted, figures=asdict(summary))
    if task.wanted.get("handoff") and not task.wanted.get("mix"):
        _handed_over(desk, task, made)
    trouble = desk.workspace.prints.get(made.id).trouble
    return {**asdict(summary), "file": made.file, "shown_name": shown, "trouble": trouble}


def _handed_over(desk: Desk, task: Task, made: Print) -> None:
    try:
        standing, version = as_asked(desk, task), str(task.wanted.get("version", ""))
        hand_over(desk, standing, print_file(desk, made), made.shown_name, version, layout_of_task(task.wanted))
    except (GlassThreadError, OSError) as error:
        desk.workspace.prints.change(made.id, trouble=sentence_of(error))
    else:
        desk.workspace.prints.change(made.id, handed_over=made.shown_name, trouble="")


def hand_over_again(desk: Desk, print_id: str) -> None:
    """Hand a print over that could not be; NotFoundError when there is none, AudioError with why it still cannot be."""
    made = desk.workspace.prints.get(print_id)
    if not print_file(desk, made).is_file():
        raise NotFoundError("The print's file is gone; print again.")
    task = Task(made.id, "print", made.song_id, made.track_id, "done", "", 1.0, "", made.made_of)
    _handed_over(desk, task, made)
    trouble = desk.workspace.prints.get(print_id).trouble
    if trouble:
        raise AudioError(trouble)
