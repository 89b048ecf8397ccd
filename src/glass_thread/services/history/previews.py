"""Operations that are tried out: each try belongs to the one who asked, and nothing of it is stored."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from ...core.document.content import ContentChange
from ...core.document.operations.registry import parse_operation
from ...core.signal.errors import NotFoundError
from ...store.byte_cache import ByteCache
from ..session.desk import Desk, Moved, Standing
from .edit import applied, refuse_squeeze

PREVIEW_BYTES = 24 << 20


@dataclass(frozen=True)
class Preview:
    """A try by its id: what the operation would change."""

    id: str
    change: ContentChange
    moved: Moved


class Previews:
    """The tries of one process."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk
        self._kept: ByteCache[tuple[str, Standing]] = ByteCache(
            PREVIEW_BYTES, lambda kept: 200 * len(kept[1].content.notes) + 5000
        )

    def try_out(self, track_id: str, operation: object, *, step_id: str | None = None) -> Preview:
        """Try an operation on a track at a step."""
        before = self._desk.at(track_id, step_id)
        return self.keep(before, *applied(self._desk, before, parse_operation(operation)))

    def keep(self, before: Standing, change: ContentChange, after: Standing) -> Preview:
        """Keep what a change would leave of a track, to be seen and heard."""
        moved = self._desk.moved(before, after)
        refuse_squeeze(moved)
        preview_id = uuid.uuid4().hex
        self._kept.keep(preview_id, (before.track.id, after))
        return Preview(preview_id, change, moved)

    def standing(self, track_id: str, preview_id: str) -> Standing:
        """What a try would leave; says plainly when it is gone."""
        kept = self._kept.get(preview_id)
        if kept is None or kept[0] != track_id:
            raise NotFoundError(
                "This preview is gone: the program was started again, or it is long ago. Change a value to try again."
            )
        return kept[1]
