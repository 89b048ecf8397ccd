"""Print a track at one step: a fixed file, listed with what it was made from."""

from __future__ import annotations

import uuid
from dataclasses import asdict, replace
from typing import Any

from ..formats.atomic import PART, put_in_place
from ..formats.audio import AudioInfo
from ..store.records import Task, Track
from .desk import Desk, Standing
from .print_writer import Blocks, PrintSummary, changed_counts, print_form, summarise, write_print
from .tasks import Reporter
from .workspace import Workspace


def print_summary(desk: Desk, standing: Standing) -> tuple[PrintSummary, AudioInfo]:
    """What a print of a standing would hold, and the source it is made from."""
    return summarise(_blocks(desk, standing), changed_counts(standing.content)), _info(desk, standing)


def _info(desk: Desk, standing: Standing) -> AudioInfo:
    return desk.sound.info(standing.track.audio_hash)


def _blocks(desk: Desk, standing: Standing) -> Blocks:
    return desk.sound.blocks(desk.sound.source(standing.track.audio_hash), desk.plan(standing))


def stamp_of(track: Track) -> int:
    """The source's own time stamp in samples, else the track's place on the timeline."""
    if track.time_reference is not None:
        return track.time_reference
    return max(0, round(track.offset_s * track.sample_rate))


def request_print(desk: Desk, track_id: str, wanted: dict[str, Any], *, step_id: str | None = None) -> Task:
    """Queue a print of a track at a step; whatever is edited meanwhile, that step is printed."""
    standing = desk.at(track_id, step_id)
    print_form(_info(desk, standing), **_form_values(wanted))
    task = desk.workspace.tasks.add(
        kind="print", song_id=standing.track.song_id, track_id=track_id,
        wanted={**wanted, "step_id": standing.step_id},
    )  # fmt: skip
    desk.workspace.enqueue(task.id)
    return task


def _form_values(wanted: dict[str, Any]) -> dict[str, Any]:
    return {name: wanted[name] for name in ("container", "bits", "lower_db") if name in wanted}


def run_print(workspace: Workspace, task: Task, report: Reporter) -> dict[str, Any]:
    """Write the print of a task; the file appears whole or not at all."""
    assert task.track_id is not None
    desk = Desk(workspace)
    standing = desk.at(task.track_id, task.wanted.get("step_id"))
    info = _info(desk, standing)
    form = replace(print_form(info, **_form_values(task.wanted)), time_reference=stamp_of(standing.track))
    name = f"{uuid.uuid4().hex}.{form.container}"
    path = workspace.audio.print_path(name)
    temporary = path.with_name(f"{name}{PART}")
    try:
        summary = write_print(temporary, info, _blocks(desk, standing), form, changed_counts(standing.content), report)
        put_in_place(temporary, path)
    finally:
        temporary.unlink(missing_ok=True)
    return {
        "file": name, "shown_name": f"{standing.track.name} {_version_name(desk, standing)}.{form.container}",
        **asdict(summary),
    }  # fmt: skip


def _version_name(desk: Desk, standing: Standing) -> str:
    """The name of the version that stands at the printed step, in lower case; plain “tuned” when none does."""
    for version in desk.workspace.history.versions(standing.track.id):
        if version.head_id == standing.step_id and not version.read_only:
            return version.name.lower()
    return "tuned"
