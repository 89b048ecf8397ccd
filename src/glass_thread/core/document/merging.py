"""One content from what several versions of a take have in stretches of the track."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from .content import KINDS, Content, Edited, EditedAir, apply_to_content, fresh_id, named
from .items.borrows import Borrow
from .items.glazes import SHORTEST_RANGE_S, Glaze
from .notes import EditedNote
from .rows import Row

Part = tuple[float, float, Row]


def merged(parts: Sequence[Part]) -> Content:
    """The content in which every note, event, gap and pin is as the version has it that sounds at its middle.

    `parts` are stretches of the track in seconds with what sounds there, in order; notes that overlap one that is
    taken already are left out.  Items that two versions have under one name and differently get names of their own.
    """
    taken: dict[type, dict[str, Any]] = {kind: {} for kind in KINDS}
    renamed: list[tuple[str, Edited]] = []
    for start_s, end_s, row in parts:
        for kind, part in zip(KINDS, row.content.parts, strict=True):
            for key, item in part.items():
                here = _inside(item, row, start_s, end_s)
                if here is None or _crosses(here, taken[kind]):
                    continue
                if key in taken[kind] and taken[kind][key] != here:
                    renamed.append((key, here))
                else:
                    taken[kind][key] = here
    content = Content(*(dict(sorted(part.items(), key=lambda item: item[1].span_s[0])) for part in taken.values()))
    for key, item in renamed:
        name = fresh_id(content, key[0])
        content = apply_to_content(content, {name: (None, named(item, name))})
    return content


def _inside(item: Edited, row: Row, start_s: float, end_s: float) -> Edited | None:
    """An item if it belongs to a stretch of the track; of a glaze the part that does."""
    a, b = (float(at) for at in row.times.source_to_track(item.span_s))
    if not isinstance(item, Glaze):
        return item if start_s <= (a + b) / 2 < end_s else None
    if a >= end_s or b <= start_s:
        return None
    share = [min(max((at - a) / (b - a), 0.0), 1.0) for at in (start_s, end_s)]
    first, last = (item.start_s + part * (item.end_s - item.start_s) for part in share)
    return replace(item, start_s=first, end_s=last) if last - first >= SHORTEST_RANGE_S else None


def _crosses(item: Edited, taken: dict[str, Any]) -> bool:
    """True when a note, event or borrow overlaps another one that was taken before."""
    if not isinstance(item, (EditedNote, EditedAir, Borrow)):
        return False
    start_s, end_s = item.span_s
    reach = 0.01
    return any(other.span_s[1] > start_s + reach and other.span_s[0] < end_s - reach for other in taken.values())
