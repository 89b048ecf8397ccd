"""Followers and derived tracks brought level with what they follow, in one press or by themselves."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ...core.document.items.links import Link
from ...core.signal.errors import ParameterError
from ...store.records import Track
from ..history.edit import Done, edit
from ..session.desk import Desk, Standing
from .deriving import made_anew


@dataclass(frozen=True)
class CaughtUp:
    """A follower that caught up by itself, or the sentence that says why it could not."""

    track_id: str
    name: str
    trouble: str = ""


def catch_up(desk: Desk, track_id: str, *, base: str, link_id: str | None = None) -> Done:
    """Bring a track level with what it follows, or is made of, as that stands now; what was edited by hand stays."""
    before = desk.at(track_id, base)
    links = before.content.links
    link = links.get(link_id) if link_id else next(iter(links.values()), None)
    if link is None:
        raise ParameterError("This track follows no other one.")
    return made_anew(desk, before, link) if link.rule is not None else _followed_again(desk, before, link)


def _followed_again(desk: Desk, before: Standing, link: Link) -> Done:
    there = [name for name in link.notes if name in before.content.notes]
    operation = {
        "type": "follow", "lead_track": link.lead_track, "note_ids": there, "timing": link.timing, "pitch": link.pitch,
        "level": link.level, "movement": link.movement, "interval": link.interval, "anchors": link.anchors,
    }  # fmt: skip
    return edit(desk, before.track.id, operation, base=str(before.step_id))


def catch_up_followers(desk: Desk, lead_track: str) -> list[CaughtUp]:
    """Bring all that follows a track by itself level with it, and what follows those in turn.

    A track that leads itself in a round is not touched again.
    """
    lead = desk.workspace.tracks.get(lead_track)
    waiting, seen, found = [lead], {lead.id}, list[CaughtUp]()
    while waiting:
        for track, standing, link in _behind(desk, waiting.pop(0)):
            if track.id in seen:
                continue
            seen.add(track.id)
            try:
                catch_up(desk, track.id, base=str(standing.step_id), link_id=link.id)
            except ParameterError as error:
                found.append(CaughtUp(track.id, track.name, str(error)))
                continue
            found.append(CaughtUp(track.id, track.name))
            waiting.append(track)
    return found


def _behind(desk: Desk, lead: Track) -> Iterator[tuple[Track, Standing, Link]]:
    """Tracks whose link to a lead catches up by itself, and which are behind it."""
    if lead.version_id is None:
        return
    head = desk.workspace.history.version(lead.version_id).head_id
    for track in desk.workspace.tracks.of_song(lead.song_id):
        if not track.ready or track.analysis_id is None or track.id == lead.id:
            continue
        standing = desk.at(track.id)
        for link in standing.content.links.values():
            if link.by_itself and link.lead_track == lead.id and link.lead_step != head:
                yield track, standing, link
