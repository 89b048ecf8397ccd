"""Followers and derived tracks brought level with what they follow, in one press or by themselves."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.document.items.links import Link
from ...core.signal.errors import ParameterError
from ...store.records import Track
from ..history.edit import Done, edit
from ..session.behind import is_behind
from ..session.desk import Desk


@dataclass(frozen=True)
class CaughtUp:
    """A follower that caught up by itself, or the sentence that says why it could not."""

    track_id: str
    name: str
    trouble: str = ""


def catch_up(desk: Desk, track_id: str, *, base: str, link_id: str | None = None) -> Done:
    """Bring a track level with what it follows, or is made of, as that stands now; what was edited by hand stays."""
    return edit(desk, track_id, {"type": "catch_up", "link_id": link_id}, base=base)


def catch_up_followers(desk: Desk, lead_track: str) -> list[CaughtUp]:
    """Bring all that follows a track by itself level with it, and what follows those in turn.

    In the order of the links: a track that follows several catches up once all of them have. One that leads itself in a
    round is not touched again.
    """
    lead = desk.workspace.tracks.get(lead_track)
    found, level = list[CaughtUp](), {lead.id}
    for track in _in_order(desk, lead):
        standing = desk.at(track.id)
        behind = [link.id for link in _own_links(desk, track)
                  if link.lead_track in level and is_behind(desk, standing, link)]  # fmt: skip
        try:
            for link_id in behind:
                catch_up(desk, track.id, base=str(desk.at(track.id).step_id), link_id=link_id)
        except ParameterError as error:
            found.append(CaughtUp(track.id, track.name, str(error)))
            continue
        level.add(track.id)
        if behind:
            found.append(CaughtUp(track.id, track.name))
    return found


def _in_order(desk: Desk, lead: Track) -> list[Track]:
    """All that follows a lead by itself, at first or later hand, each after those that it follows; rounds are cut."""
    others = [track for track in desk.workspace.tracks.of_song(lead.song_id)
              if track.ready and track.analysis_id is not None and track.id != lead.id]  # fmt: skip
    leads = {track.id: {link.lead_track for link in _own_links(desk, track)} for track in others}
    reached, grown = {lead.id}, True
    while grown:
        more = {name for name, above in leads.items() if above & reached} - reached
        reached, grown = reached | more, bool(more)
    waiting, done = [track for track in others if track.id in reached], {lead.id}
    ordered = []
    while waiting:
        free = [track for track in waiting if not (leads[track.id] & reached) - done - {track.id}]
        first = (free or waiting)[0]
        waiting.remove(first)
        done.add(first.id)
        ordered.append(first)
    return ordered


def _own_links(desk: Desk, track: Track) -> list[Link]:
    """The links of a track that catch up by themselves."""
    return [link for link in desk.at(track.id).content.links.values() if link.by_itself]
