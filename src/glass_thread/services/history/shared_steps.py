"""Steps that were made on several tracks at once: taken back and made again on all of them, or on none."""

from __future__ import annotations

from typing import NamedTuple

from ...core.signal.errors import ParameterError
from ...store.history import Move
from ...store.records import Step, StepEntry, Version
from ..session.desk import Desk


class Along(NamedTuple):
    """A track whose head moves along with that of another one."""

    track_id: str
    move: Move


def taken_back(desk: Desk, step: StepEntry) -> list[Along]:
    """What else goes back when a step is undone.

    Raises
    ------
    ParameterError
        When a track went on from the shared step, so that it cannot be taken back there.
    """
    along = []
    for other in desk.workspace.history.shared_with(step):
        version = standing_at(desk, other.track_id, other.id)
        if version is not None:
            along.append(Along(other.track_id, Move(version.id, other.id, str(other.parent_id))))
        elif leads_on(desk, other.track_id, other.id):
            raise ParameterError(
                f"This step was made on several tracks at once, and “{_name(desk, other)}” was edited since. Undo that "
                "there first, or go back on this track alone in its list of steps."
            )
    return along


def made_again(desk: Desk, step: StepEntry) -> list[Along]:
    """What else goes on when a step is done again; ParameterError when a track is not where the step began."""
    along = []
    for other in desk.workspace.history.shared_with(step):
        version = standing_at(desk, other.track_id, str(other.parent_id))
        if version is None:
            raise ParameterError(
                f"This step was made on several tracks at once, and “{_name(desk, other)}” stands elsewhere now. Go to "
                "it on this track alone in its list of steps."
            )
        along.append(Along(other.track_id, Move(version.id, str(other.parent_id), other.id)))
    return along


def _versions(desk: Desk, track_id: str) -> list[Version]:
    """The versions of a track that can be edited, the one that is worked on first."""
    worked_on = desk.workspace.tracks.get(track_id, even_removed=True).version_id
    versions = (one for one in desk.workspace.history.versions(track_id) if not one.is_comp and not one.read_only)
    return sorted(versions, key=lambda one: one.id != worked_on)


def standing_at(desk: Desk, track_id: str, step_id: str) -> Version | None:
    """A version of a track whose head is a step."""
    return next((one for one in _versions(desk, track_id) if one.head_id == step_id), None)


def leads_on(desk: Desk, track_id: str, step_id: str) -> bool:
    """Whether a version of a track stands at a step or went on from it."""
    history = desk.workspace.history
    return any(history.leads_to(step_id, one.head_id) for one in _versions(desk, track_id))


def _name(desk: Desk, step: Step) -> str:
    return desk.workspace.tracks.get(step.track_id, even_removed=True).name
