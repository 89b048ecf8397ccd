"""From a task to its job, and from the job's outcome to what the task was for."""

from __future__ import annotations

from dataclasses import asdict, replace
from typing import Any

from ...core.signal.errors import AudioError, GlassThreadError
from ...core.signal.types import Analysis
from ...store.files.analysis_cache import analysis_id_of
from ...store.records import Task, Track
from ..folder.workspace import Workspace
from ..history.carry_over import carry_over
from ..prints.keeping import keep_print, layout_of_task
from ..prints.mixing import mix_data
from ..prints.print_layout import Layout
from ..prints.print_writer import print_form, summary_from
from ..prints.printing import as_asked, form_values, made_of, stamp_of
from ..session.desk import Desk
from .jobs import AnalyseJob, Job, MixJob, Outcome, PrintJob, ScanJob


def job_of(desk: Desk, task: Task) -> Job | None:
    """What has to be computed for a task; None when it is known already."""
    assert task.track_id is not None
    if task.kind == "print":
        return print_job(desk, task)
    track = desk.workspace.tracks.get(task.track_id, even_removed=True)
    if track.role == "backing":
        return ScanJob(track.audio_hash)
    if task.kind == "analyse" and track.analysis_id != analysis_id_of(track.audio_hash):
        raise AudioError(
            "What was found in this recording was found by an earlier version of the program, and this one would cut "
            "its notes differently. Bring the recording in anew; the edits stay in the data folder."
        )
    known = desk.workspace.analyses.load(analysis_id_of(track.audio_hash))
    return None if known else AnalyseJob(track.audio_hash)


def print_job(desk: Desk, task: Task) -> PrintJob | MixJob:
    """What a print, or a mix, is made by: as everything was when it was asked for."""
    return _mix_job(desk, task) if task.wanted.get("mix") else _print_job(desk, task)


def _print_job(desk: Desk, task: Task) -> PrintJob:
    standing = as_asked(desk, task)
    track = standing.track
    layout = layout_of_task(task.wanted) or Layout(0, desk.take(standing).length)
    stamp = task.wanted.get("frozen", {}).get("stamp", max(0, stamp_of(standing.song, track) + layout.first))
    form = print_form(desk.sound.info(track.audio_hash), **form_values(task.wanted))
    cues = tuple((at, text) for at, text in task.wanted.get("frozen", {}).get("cues", ()))
    form = replace(form, time_reference=stamp, cues=cues)
    return PrintJob(**made_of(desk, standing), form=asdict(form), layout=asdict(layout))


def _mix_job(desk: Desk, task: Task) -> MixJob:
    parts, length, channels = mix_data(desk, task)
    form = print_form(desk.sound.info(parts[0]["audio"]), **form_values(task.wanted))
    return MixJob(parts, length, channels, asdict(form))


def settle(desk: Desk, task: Task, outcome: Outcome) -> dict[str, Any]:
    """Take in what came of a job; returns the task's result."""
    assert task.track_id is not None
    if task.kind == "print":
        if outcome.file is None:
            raise AudioError("A worker said that the print is done and left no file; print again.")
        return keep_print(desk, task, outcome.file, summary_from(outcome.values))
    workspace = desk.workspace
    track = workspace.tracks.get(task.track_id, even_removed=True)
    if track.role == "backing":
        workspace.tracks.change(track.id, {"ready": True})
        return {"notes": 0}
    analysis_id = analysis_id_of(track.audio_hash)
    found = workspace.analyses.load(analysis_id)
    if found is None and outcome.file:
        workspace.audio.take_result(outcome.file, workspace.analyses.path(analysis_id))
        found = workspace.analyses.load(analysis_id)
    if found is None:
        raise AudioError("What was found in the recording arrived damaged; bring it in again.")
    if task.kind == "import":
        _begin(workspace, track, analysis_id, found)
        if task.wanted.get("carry_from"):
            return {"notes": len(found.notes), "carried": _carried(desk, task)}
    return {"notes": len(found.notes), "polyphonic": found.polyphonic}


def _begin(workspace: Workspace, track: Track, analysis_id: str, found: Analysis) -> None:
    if track.version_id is None:  # else the program ended between the two last time
        workspace.history.begin(track.id, analysis_id)
    workspace.tracks.change(track.id, {"ready": True, "notes_found": len(found.notes)})


def _carried(desk: Desk, task: Task) -> int:
    """How many notes and air events got the edits of the take before; none when that is gone meanwhile."""
    try:
        return carry_over(desk, task.wanted["carry_from"], str(task.track_id))
    except GlassThreadError:
        return 0
