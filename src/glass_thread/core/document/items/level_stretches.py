"""Level stretches: any stretch of a recording that is louder, softer or silent, wherever notes and air lie."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ...signal.types import HOP_S

SHORTEST_STRETCH_S = 4 * HOP_S
FADES_MS = (5.0, 200.0)


@dataclass(frozen=True)
class LevelStretch:
    """A stretch [start_s, end_s) of the recording whose level is changed by `level_db`, or that is silent.

    Both ends fade over `fade_ms`, inside the stretch.
    """

    id: str
    start_s: float
    end_s: float
    level_db: float = 0.0
    muted: bool = False
    fade_ms: float = 20.0

    @property
    def span_s(self) -> tuple[float, float]:
        """Start and end in seconds."""
        return self.start_s, self.end_s


def outside(
    stretches: Mapping[str, LevelStretch], start_s: float, end_s: float, names: Sequence[str]
) -> dict[str, list[LevelStretch]]:
    """What is left of each stretch that meets a range once the range is taken out of it, by its id.

    What is left behind the range takes the next of `names` where something is left before it too.
    """
    fresh = iter(names)
    left: dict[str, list[LevelStretch]] = {}
    for one in stretches.values():
        if one.end_s <= start_s or one.start_s >= end_s:
            continue
        parts = [replace(one, end_s=start_s), replace(one, start_s=end_s)]
        parts = [part for part in parts if part.end_s - part.start_s >= SHORTEST_STRETCH_S]
        left[one.id] = [part if i == 0 else replace(part, id=next(fresh)) for i, part in enumerate(parts)]
    return left
