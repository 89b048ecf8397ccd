"""Catching up: a follower, another voice or a comp becomes level with what it comes from; what a hand changed stays."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from .....signal.errors import ParameterError
from .....signal.types import Analysis
from .....song.keys import KeyMap
from ....content import Content, ContentChange, Edited
from ....items.links import Link
from ....linked.origins import MadeNow, Origin
from ....linked.three_way import caught_up
from ....rows import Row
from .comp_edits import row_of
from .follow_edits import follow


def catch_up(
    content: Content, keys: KeyMap, analysis: Analysis, origins: Mapping[str, Origin], rows: Mapping[str, Row], *,
    link_id: str | None = None, version_ids: Sequence[str] = (),
) -> ContentChange:  # fmt: skip
    """Make what is still as it was given last as it is given now."""
    if content.choices:
        return _chosen_anew(content, rows, version_ids)
    link = link_to_catch_up(content, link_id)
    if link is None:
        raise ParameterError("This track follows no other one.")
    origin = origins[link.id]
    if isinstance(origin, MadeNow):
        return _made_anew(content, link, origin)
    there = [name for name in link.base if name in content.notes]
    if not there:
        raise ParameterError("None of the notes that followed is there any more.")
    return follow(
        content, keys, analysis, origin, lead_track=link.lead_track, note_ids=there, timing=link.timing,
        pitch=link.pitch, level=link.level, movement=link.movement, interval=link.interval, anchors=link.anchors,
    )  # fmt: skip


def link_to_catch_up(content: Content, link_id: str | None) -> Link | None:
    """The link of that id; without one the first there is."""
    return content.links.get(link_id) if link_id else next(iter(content.links.values()), None)


def _made_anew(content: Content, link: Link, origin: MadeNow) -> ContentChange:
    change = caught_up(content, link.base or origin.base, origin.content)
    new = replace(origin.link, id=link.id, by_itself=link.by_itself)
    return {**change, **({} if new == link else {link.id: (link, new)})}


def _chosen_anew(content: Content, rows: Mapping[str, Row], version_ids: Sequence[str]) -> ContentChange:
    """Versions as they stand now, where they were chosen as they stood before: what a choice was given is its step."""
    for version_id in version_ids:
        row_of(rows, version_id)
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    for choice in content.choices.values():
        row = rows.get(choice.version_id)
        if row and (not version_ids or row.version_id in version_ids) and row.step_id != choice.step_id:
            change[choice.id] = (choice, replace(choice, step_id=row.step_id))
    return change
