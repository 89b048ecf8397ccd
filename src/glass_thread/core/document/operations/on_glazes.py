"""Operations on glazes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from .kinds import Kind, choice_kind, ids, number, number_kind, switch_kind, values
from .operation import Operation
from .rules import glaze_edits

SETTINGS: dict[str, Kind] = {
    "settle_ms": number_kind(0.0, 400.0, "Settle time", unit="ms"),
    "strength": number_kind(0.0, 1.0, "Strength"),
    "rounding": choice_kind(("scale", "semitone"), "Rounding"),
    "tolerance_cents": number_kind(0.0, 100.0, "Tolerance", unit="cents"),
    "shortest_ms": number_kind(10.0, 1000.0, "Shortest note", unit="ms"),
    "keep_vibrato": switch_kind("Keep vibrato"),
}


def _settings(words: str) -> Any:
    return values(SETTINGS, words, {"settle_ms": 80.0})


@dataclass(frozen=True, kw_only=True)
class AddGlaze(Operation, type="glaze", label="Glaze", rule=glaze_edits.add_glaze, needs="content"):
    """Lay a glaze over a range, or over everything; it takes the place of what glazes there were."""

    start_s: float = number(0.0, 1e6, "From", unit="seconds in the recording", default=0.0)
    end_s: float | None = number(0.0, 1e6, "To; the end when left out", unit="seconds", default=None)
    values: Mapping[str, Any] = _settings("How it pulls")


@dataclass(frozen=True, kw_only=True)
class SetGlaze(Operation, type="set_glaze", label="Glaze settings", rule=glaze_edits.set_glaze, needs="content"):
    """Change how glazes pull."""

    glaze_ids: Sequence[str] = ids("Ids of the glazes; all when empty", "z0001", default=())
    values: Mapping[str, Any] = _settings("Settings to change")


@dataclass(frozen=True, kw_only=True)
class RemoveGlaze(Operation, type="remove_glaze", label="No glaze", rule=glaze_edits.remove_glaze, needs="content"):
    """Take glazes away."""

    glaze_ids: Sequence[str] = ids("Ids of the glazes; all when empty", "z0001", default=())
