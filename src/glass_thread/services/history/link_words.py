"""What an edit of links is called among the steps of the song."""

from __future__ import annotations

from ...core.document.content import ContentChange
from ...core.document.items.links import Link
from ...core.document.operations.on_follow import CatchUp, Follow, SetLink
from ...core.document.operations.registry import Operation
from ...store.records import Track
from ..session.desk import Desk


def link_words(desk: Desk, track: Track, asked: Operation, change: ContentChange) -> str:
    """The label in the song of an edit that changes links; empty when it changes none."""
    states = (after or before for before, after in change.values())
    leads = {link.lead_track for link in states if isinstance(link, Link)}
    if not leads:
        return ""
    names = " and ".join(f"“{desk.workspace.tracks.get(lead, even_removed=True).name}”" for lead in sorted(leads))
    if isinstance(asked, CatchUp):
        return f"“{track.name}” caught up"
    if isinstance(asked, Follow):
        return f"“{track.name}” follows {names}"
    if isinstance(asked, SetLink):
        return f"“{track.name}” catches up {'by itself' if asked.by_itself else 'when asked'}"
    return f"“{track.name}” follows {names} no longer"
