"""Operations on the level of any stretch."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..gestures import RANGES
from ..items.level_stretches import FADES_MS
from .kinds import Kind, ids, number, number_kind, switch_kind, values
from .operation import Operation
from .rules import level_stretch_edits

_LOW, _HIGH, _ = RANGES["level_db"]
SETTINGS: dict[str, Kind] = {
    "level_db": number_kind(_LOW, _HIGH, "Level", unit="dB"),
    "muted": switch_kind("Silent"),
    "fade_ms": number_kind(*FADES_MS, "Fades", unit="ms"),
    "start_s": number_kind(0.0, 1e6, "From", unit="seconds"),
    "end_s": number_kind(0.0, 1e6, "To", unit="seconds"),
}


@dataclass(frozen=True, kw_only=True)
class AddLevelStretch(
    Operation, type="level_stretch", label="Level stretch", rule=level_stretch_edits.add_stretch, needs="content"
):
    """Change the level of any stretch, over notes and air alike, or silence it."""

    start_s: float = number(0.0, 1e6, "From", unit="seconds in the recording")
    end_s: float = number(0.0, 1e6, "To", unit="seconds")
    level_db: float | None = number(_LOW, _HIGH, "Change of level; silent when left out", unit="dB", default=None)
    fade_ms: float = number(*FADES_MS, "Fades at both ends", unit="ms", default=20.0)


@dataclass(frozen=True, kw_only=True)
class SetLevelStretch(
    Operation, type="set_level_stretch", label="Level stretch", rule=level_stretch_edits.set_stretch, needs="content"
):
    """Change level, fades or ends of level stretches."""

    stretch_ids: Sequence[str] = ids("Ids of the level stretches; all when empty", "l0001", default=())
    values: Mapping[str, Any] = values(SETTINGS, "Values to change", {"level_db": -3.0})


@dataclass(frozen=True, kw_only=True)
class RemoveLevelStretch(
    Operation, type="remove_level_stretch", label="Level stretch put back", rule=level_stretch_edits.remove_stretch,
    needs="content",
):  # fmt: skip
    """Put the level of stretches back as recorded."""

    stretch_ids: Sequence[str] = ids("Ids of the level stretches; all when empty", "l0001", default=())
