"""Whether what follows another track is level with it."""

from __future__ import annotations

from ...core.document.items.links import Link
from .desk import Desk, Standing
from .keys import keys_mark


def is_behind(desk: Desk, follower: Standing, link: Link) -> bool:
    """Whether a lead, or the keys that a link kept to, are other ones than when it caught up last."""
    version = desk.workspace.tracks.get(link.lead_track, even_removed=True).version_id
    moved = version is not None and desk.workspace.history.version(version).head_id != link.lead_step
    return moved or (link.keys != "" and link.keys != keys_mark(follower.keys))
