"""Print a track at one step: a fixed file, listed with what it was made from."""

from __future__ import annotations

from typing import Any

from ..formats.audio import AudioInfo
from ..store.records import Task, Track
from .desk import Desk, Standing
from .print_writer import Blocks, PrintSummary, changed_counts, comp_counts, print_form, summarise


def print_summary(desk: Desk, standing: Standing) -> tuple[PrintSummary, AudioInfo]:
    """What a print of a standing would hold, and the source it is made from."""
    return summarise(_blocks(desk, standing), _counts(desk, standing)), _info(desk, standing)


def _counts(desk: Desk, standing: Standing) -> tuple[int, int]:
    choices = standing.content.choices
    if not choices:
        return changed_counts(standing.content, desk.plan(standing))
    parts = {choice.step_id: desk.at(standing.track.id, choice.step_id) for choice in choices.values()}
    contents = {step: part.content for step, part in parts.items()}
    return comp_counts(choices, contents, {step: desk.plan(part) for step, part in parts.items()})


def _info(desk: Desk, standing: Standing) -> AudioInfo:
    return desk.sound.info(standing.track.audio_hash)


def _blocks(desk: Desk, standing: Standing) -> Blocks:
    return desk.take(standing).blocks()


def stamp_of(track: Track) -> int:
    """The source's own time stamp in samples, else the track's place on the timeline."""
    if track.time_reference is not None:
        return track.time_reference
    return max(0, round(track.offset_s * track.sample_rate))


def request_print(desk: Desk, track_id: str, wanted: dict[str, Any], *, step_id: str | None = None) -> Task:
    """Queue a print of a track at a step; whatever is edited meanwhile, that step is printed."""
    standing = desk.at(track_id, step_id)
    print_form(_info(desk, standing), **form_values(wanted))
    task = desk.workspace.tasks.add(
        kind="print", song_id=standing.track.song_id, track_id=track_id,
        wanted={**wanted, "step_id": standing.step_id},
    )  # fmt: skip
    desk.workspace.announce()
    return task


def form_values(wanted: dict[str, Any]) -> dict[str, Any]:
    """What a request for a print says of the form of the file."""
    return {name: wanted[name] for name in ("container", "bits", "lower_db") if name in wanted}


def print_name(desk: Desk, standing: Standing, container: str) -> str:
    """What a print is called when it is saved: the track and the version it is of."""
    return f"{standing.track.name} {_version_name(desk, standing)}.{container}"


def _version_name(desk: Desk, standing: Standing) -> str:
    """The name of the version that stands at the printed step, in lower case; plain “tuned” when none does."""
    for version in desk.workspace.history.versions(standing.track.id):
        if version.head_id == standing.step_id and not version.read_only:
            return version.name.lower()
    return "tuned"
