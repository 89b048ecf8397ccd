"""Operations on comps: which version sounds when.  Times are seconds of the track."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from .kinds import choices, ids, number, one_id, switch
from .operation import Operation
from .rules.voices import comp_edits
from .rules.voices.comp_edits import AIR_KINDS


def _from() -> Any:
    return number(0.0, 1e6, "From", unit="seconds of the track", default=0.0)


def _to() -> Any:
    return number(0.0, 1e6, "To; the end when left out", unit="seconds of the track", default=None)


def _version() -> Any:
    return one_id("Id of the version to choose", "v1")


@dataclass(frozen=True, kw_only=True)
class Choose(Operation, type="choose", label="Choose", rule=comp_edits.choose, needs="rows"):
    """Let a version sound over a stretch."""

    version_id: str = _version()
    start_s: float = _from()
    end_s: float | None = _to()


@dataclass(frozen=True, kw_only=True)
class ChooseAir(Operation, type="choose_air", label="Air", rule=comp_edits.choose_air, needs="rows"):
    """Take the air of a stretch from a version."""

    version_id: str = _version()
    kinds: Sequence[str] = choices(AIR_KINDS, "Which air", default=("sibilant", "breath"))
    start_s: float = _from()
    end_s: float | None = _to()


@dataclass(frozen=True, kw_only=True)
class ChooseLeastStrain(
    Operation, type="choose_least_strain", label="Least strain", rule=comp_edits.choose_least_strain, needs="rows"
):
    """Take strained or flagged notes from the version in which they have least strain."""

    version_ids: Sequence[str] = ids("Ids of the versions to take them from", "v1")
    above: float = number(0.0, 100.0, "Notes with more strain than", default=50.0)
    flagged: bool = switch("Flagged notes too", default=False)
    start_s: float = _from()
    end_s: float | None = _to()


@dataclass(frozen=True, kw_only=True)
class MoveBorder(Operation, type="move_border", label="Border", rule=comp_edits.move_border, needs="rows"):
    """Move where a choice starts."""

    choice_id: str = one_id("Id of the choice", "c0002")
    to_s: float = number(0.0, 1e6, "To", unit="seconds of the track")
