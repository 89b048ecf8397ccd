"""What the links of a track lead to as it stands now."""

from __future__ import annotations

from dataclasses import replace

from ...core.document.items.links import Link
from ...core.document.linked.origins import MadeNow, Origin
from ...core.document.linked.three_way import bases_of
from ...core.document.operations.on_follow import CatchUp, Follow
from ..session.desk import Desk, Standing
from .following import lead_for
from .making import made_of, rule_of


def origins_for(desk: Desk, before: Standing, asked: CatchUp) -> dict[str, Origin]:
    """What the link that a track catches up with leads to, by its id."""
    links = before.content.links
    link = links.get(asked.link_id) if asked.link_id else next(iter(links.values()), None)
    if link is None:
        return {}
    return {link.id: _follower_of(desk, before, link) if link.rule is None else _made_now(desk, link)}


def _follower_of(desk: Desk, before: Standing, link: Link) -> Origin:
    follow = Follow(
        lead_track=link.lead_track, timing=link.timing, pitch=link.pitch, level=link.level, movement=link.movement,
        interval=link.interval, anchors=link.anchors,
    )  # fmt: skip
    return lead_for(desk, before, follow)


def _made_now(desk: Desk, link: Link) -> MadeNow:
    rule = rule_of(dict(link.rule or {}))
    now = made_of(desk.at(link.lead_track), rule)
    (new_link,) = now.links.values()
    # links of an earlier release have no marks; what the rule gave then can be made again
    base = {} if link.base else bases_of(replace(made_of(desk.at(link.lead_track, link.lead_step), rule), links={}))
    return MadeNow(replace(now, links={}), new_link, base)
