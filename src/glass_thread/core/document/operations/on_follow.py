"""Operations that make a track follow another one, and bring what is linked level."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .kinds import choice, ids, moments, number, one_id, switch
from .operation import Operation
from .rules.voices import catching_up, follow_edits

INTERVALS = ("scale", "semitones")


@dataclass(frozen=True, kw_only=True)
class Follow(Operation, type="follow", label="Follow", rule=follow_edits.follow, needs="lead", by_hand=False):
    """Let notes follow another track in time, pitch and level; what only one of them sings is left alone."""

    lead_track: str = one_id("Id of the track that leads", "t1")
    note_ids: Sequence[str] = ids("Ids of the notes; all when empty", "n0001", default=())
    timing: float = number(0.0, 1.0, "How far starts and lengths follow", default=0.9)
    pitch: float = number(0.0, 1.0, "How far pitches follow", default=0.0)
    level: float = number(0.0, 1.0, "How far levels follow", default=0.0)
    movement: bool = switch("The whole way of the pitch follows, not its centre alone", default=False)
    interval: str = choice(INTERVALS, "How a harmony keeps its interval", default="scale")
    keep_edited: bool = switch("What was edited by hand is kept", default=True)
    anchors: Sequence[Sequence[float]] = moments("Moments that belong together, in the lead and in the follower")


@dataclass(frozen=True, kw_only=True)
class Unlink(Operation, type="unlink", label="No longer follow", rule=follow_edits.unlink, needs="content"):
    """Let go of the lead; notes stay as they are."""

    link_ids: Sequence[str] = ids("Ids of the links; all when empty", "f0001", default=())


@dataclass(frozen=True, kw_only=True)
class SetLink(Operation, type="set_link", label="Catch up by itself", rule=follow_edits.set_link, needs="content"):
    """Let a follower catch up by itself when its lead changes, or only when asked."""

    link_ids: Sequence[str] = ids("Ids of the links; all when empty", "f0001", default=())
    by_itself: bool = switch("It catches up by itself", default=True)


@dataclass(frozen=True, kw_only=True)
class CatchUp(Operation, type="catch_up", label="Catch up", rule=catching_up.catch_up, needs="origins", by_hand=False):
    """Become level with the lead of a link as it stands now; a comp, with the versions it chose. What was changed by
    hand since stays."""

    link_id: str | None = one_id("Id of the link; the first when left out", "f0001", default=None)
    version_ids: Sequence[str] = ids("Of a comp, ids of the versions; all when empty", "v1", default=())
