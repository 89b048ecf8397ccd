"""What the links of a track lead to as it stands now."""

from __future__ import annotations

from dataclasses import replace

from ...core.document.content import Content
from ...core.document.items.links import Link
from ...core.document.linked.origins import MadeNow, Origin
from ...core.document.operations.on_follow import CatchUp, Follow
from ...core.document.operations.registry import Operation
from ...core.document.operations.rules.voices.catching_up import link_to_catch_up
from ..session.desk import Desk, Standing
from .following import lead_for
from .making import made_of, rule_of


def origins_for(desk: Desk, before: Standing, asked: CatchUp) -> dict[str, Origin]:
    """What the link that a track catches up with leads to, by its id."""
    link = link_to_catch_up(before.content, asked.link_id)
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
    now, new_link = _made(desk.at(link.lead_track), rule)
    if link.base:
        return MadeNow(now, new_link)
    # links of an earlier release have no marks; what the rule gave then can be made again
    _then, old_link = _made(desk.at(link.lead_track, link.lead_step), rule)
    return MadeNow(now, new_link, old_link.base)


def _made(lead: Standing, rule: Operation) -> tuple[Content, Link]:
    """What a rule makes of a lead, and its link by itself."""
    made = made_of(lead, rule)
    (link,) = made.links.values()
    return replace(made, links={}), link
