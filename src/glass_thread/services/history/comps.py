"""Comps of a track: made, read, and made into versions."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.document.content import as_found, difference_of
from ...core.document.items.comps import Choice, spans_of
from ...core.document.merging import merged
from ...core.document.operations.on_comps import Choose
from ...core.document.operations.registry import Scene, describe
from ...core.signal.errors import NotFoundError, ParameterError
from ...formats.plain_data import change_to_data
from ...store.history import NewStep
from ...store.records import Version
from ..folder.names import one_line
from ..session.desk import Desk, Standing
from ..sound.take import Border, CompTake
from .rows import row_at, rows_of
from .versions import LONGEST_NAME


def list_comps(desk: Desk, track_id: str, *, removed: bool = False) -> list[Version]:
    """The comps of a track, or those that were removed."""
    desk.track(track_id)
    return [version for version in desk.workspace.history.versions(track_id, removed=removed) if version.is_comp]


def make_comp(desk: Desk, track_id: str, name: str, *, version_id: str | None = None) -> Version:
    """A comp in which one version sounds throughout; the one that is worked on unless another is named."""
    track = desk.track(track_id)
    rows = rows_of(desk, track_id)
    base = version_id or str(track.version_id)
    if base not in rows:
        raise NotFoundError("There is no such version of this track.")
    title = one_line(name, "A comp's name", LONGEST_NAME)
    asked = Choose(version_id=base)
    found = as_found(desk.analysis(track))
    keys = desk.at(track_id).keys
    change = asked.change(Scene(found, keys, desk.analysis(track), rows=rows))
    history = desk.workspace.history
    root = history.root_of(track_id)
    with desk.workspace.database.at_once():
        made = history.add_version(track_id, name=title, note="", head_id=root, kind="comp")
        new = NewStep(made.id, root, describe(asked, change), asked.to_data(), change_to_data(change))
        ((version, _step),) = history.append([new])
    return version


@dataclass(frozen=True)
class CompState:
    """A comp at a step: what sounds when with the names of the versions, each border, and which of its versions have
    been changed since they were chosen."""

    choices: list[tuple[float, float, Choice, str]]
    borders: list[Border]
    behind: list[str]
    length_s: float


def comp_at(desk: Desk, standing: Standing) -> CompState:
    """How a comp stands."""
    take = desk.take(standing)
    if not isinstance(take, CompTake):
        raise ParameterError("This is a version, not a comp.")
    history = desk.workspace.history
    versions = {one: history.version(one) for one in {c.version_id for c in standing.content.choices.values()}}
    length_s = take.length / standing.track.sample_rate
    choices = [(a, min(b, length_s), choice, versions[choice.version_id].name)
               for a, b, choice in spans_of(standing.content.choices) if a < length_s]  # fmt: skip
    older = {choice.version_id for _, _, choice, _ in choices if choice.step_id != versions[choice.version_id].head_id}
    behind = [one for one in versions if one in older]
    return CompState(choices, take.borders(), behind, length_s)


def version_from_comp(desk: Desk, track_id: str, comp: Version, name: str) -> Version:
    """A version that begins with what a comp chose: every note and air event as the version has it that sounds there.

    What a comp joins by crossfades is joined by the notes' own glides there.
    """
    standing = desk.at(track_id, comp.head_id)
    parts = [(a, b, row_at(desk, track_id, desk.workspace.history.version(c.version_id), c.step_id))
             for a, b, c in spans_of(standing.content.choices)]  # fmt: skip
    begin = parts[0][2]
    content = merged(parts)
    history = desk.workspace.history
    title = one_line(name, "A version's name", LONGEST_NAME)
    change, label = difference_of(begin.content, content), f"From the comp “{comp.name}”"
    with desk.workspace.database.at_once():
        version = history.add_version(track_id, name=title, note=label, head_id=begin.step_id)
        if change:
            operation = {"type": "from_comp", "step_id": comp.head_id}
            new = NewStep(version.id, begin.step_id, label, operation, change_to_data(change))
            ((version, _step),) = history.append([new])
    return version
