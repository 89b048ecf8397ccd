"""Operations on air events and on what lies between phrases."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..harsh import HARSH_OVER_DB
from .kinds import Kind, choice, choice_kind, ids, number, number_kind, one_id, switch, switch_kind, values
from .on_cuts import SIDES
from .operation import Operation
from .rules import air_edits, air_passes, level_passes
from .rules.air_edits import HIGHEST_DB, KINDS, LOWEST_DB
from .rules.air_passes import SOFTENED_TO_DB

LEVEL: dict[str, Kind] = {
    "level_db": number_kind(LOWEST_DB, HIGHEST_DB, "Level re as sung", unit="dB"),
    "muted": switch_kind("Silent"),
}


def _air_ids() -> Any:
    return ids("Ids of the air events", "a0004")


def _some_notes() -> Any:
    return ids("Only air of these notes", "n0003", default=())


def _some_air() -> Any:
    return ids("Only these air events", "a0004", default=())


@dataclass(frozen=True, kw_only=True)
class SetAir(Operation, type="set_air", label="Set air", rule=air_edits.set_air, needs="content"):
    """Set level, silence or kind of air events."""

    air_ids: Sequence[str] = _air_ids()
    values: Mapping[str, Any] = values(
        {**LEVEL, "kind": choice_kind(KINDS, "What it is")}, "Values to set", {"level_db": -3.0}
    )


@dataclass(frozen=True, kw_only=True)
class NudgeAir(Operation, type="nudge_air", label="Air level", rule=air_edits.nudge_air, needs="content"):
    """Change levels by an amount; what was silenced is heard again."""

    air_ids: Sequence[str] = _air_ids()
    by_db: float = number(LOWEST_DB - HIGHEST_DB, HIGHEST_DB - LOWEST_DB, "Change of level", unit="dB")


@dataclass(frozen=True, kw_only=True)
class PutAirBack(Operation, type="put_air_back", label="Put air back", rule=air_edits.put_air_back, needs="content"):
    """Put levels of air back as sung."""

    air_ids: Sequence[str] = _air_ids()


@dataclass(frozen=True, kw_only=True)
class MoveAirEdge(Operation, type="move_air_edge", label="Edge of air", rule=air_edits.move_air_edge, needs="content"):
    """Move the start or end of an event; neighbours that it reaches give way."""

    air_id: str = one_id("Id of the air event", "a0004")
    side: str = choice(SIDES, "Which edge")
    at_s: float = number(0.0, 1e6, "To", unit="seconds")


@dataclass(frozen=True, kw_only=True)
class SplitAir(Operation, type="split_air", label="Split air", rule=air_edits.split_air, needs="content"):
    """Cut an air event in two."""

    air_id: str = one_id("Id of the air event", "a0004")
    at_s: float = number(0.0, 1e6, "Where", unit="seconds")


@dataclass(frozen=True, kw_only=True)
class AddAir(Operation, type="add_air", label="Add air", rule=air_edits.add_air, needs="content"):
    """Make an air event of a stretch."""

    start_s: float = number(0.0, 1e6, "From", unit="seconds")
    end_s: float = number(0.0, 1e6, "To", unit="seconds")
    kind: str | None = choice(KINDS, "What it is; told from its sound when left out", default=None)


@dataclass(frozen=True, kw_only=True)
class RemoveAir(Operation, type="remove_air", label="No air", rule=air_edits.remove_air, needs="content"):
    """Say that these are no air events; their sound comes back as recorded."""

    air_ids: Sequence[str] = _air_ids()


@dataclass(frozen=True, kw_only=True)
class SoftenHarsh(
    Operation, type="soften_harsh", label="Soften harsh sibilants", rule=air_passes.soften_harsh, needs="content"
):
    """Bring sibilants that stand out down towards the track's typical one."""

    note_ids: Sequence[str] = _some_notes()
    air_ids: Sequence[str] = _some_air()
    over_db: float = number(0.0, 24.0, "Harsh over the typical one", unit="dB", default=HARSH_OVER_DB)
    to_db: float = number(-12.0, 24.0, "Brought to over the typical one", unit="dB", default=SOFTENED_TO_DB)


@dataclass(frozen=True, kw_only=True)
class SetBreaths(Operation, type="set_breaths", label="Breaths", rule=air_passes.set_breaths, needs="content"):
    """Set the level of breaths, or remove them, all alike."""

    note_ids: Sequence[str] = _some_notes()
    air_ids: Sequence[str] = _some_air()
    values: Mapping[str, float | bool] = values(LEVEL, "Level or silence", {"level_db": -6.0})


@dataclass(frozen=True, kw_only=True)
class ClearGaps(Operation, type="clear_gaps", label="Clear gaps", rule=level_passes.clear_gaps, needs="content"):
    """Clear what lies between phrases."""

    start_s: float = number(0.0, 1e6, "From", unit="seconds", default=0.0)
    end_s: float | None = number(0.0, 1e6, "To; the end when left out", unit="seconds", default=None)
    level_db: float | None = number(-60.0, 0.0, "Down by; silence when left out", unit="dB", default=None)
    keep_before_s: float = number(0.0, 2.0, "Kept before each phrase", unit="seconds", default=0.08)
    keep_after_s: float = number(0.0, 2.0, "Kept after each phrase", unit="seconds", default=0.12)
    keep_soft: bool = switch("Keep what leads softly into a phrase", default=True)
    keep_breaths: bool = switch("Keep breaths", default=True)


@dataclass(frozen=True, kw_only=True)
class FillGapsAgain(
    Operation, type="fill_gaps_again", label="Put gaps back", rule=level_passes.fill_gaps_again, needs="content"
):
    """Put what was cleared back as recorded."""

    gap_ids: Sequence[str] = ids("Ids of the gaps; all when empty", "g0001", default=())
