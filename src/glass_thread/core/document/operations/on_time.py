"""Operations on when notes start and how long they last."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ...song.beats import GRIDS
from ..gestures import MOST_SHIFT_MS
from ..time.give_way import MAX_STRETCH, MIN_STRETCH
from .kinds import Kind, choice, ids, number, number_kind, one_id, switch, values
from .on_cuts import SIDES
from .on_notes import note_ids
from .operation import Operation
from .rules import quantise, time_edits

TIMES: dict[str, Kind] = {
    "start_shift_ms": number_kind(-MOST_SHIFT_MS, MOST_SHIFT_MS, "Starts later than sung by", unit="ms"),
    "end_shift_ms": number_kind(-MOST_SHIFT_MS, MOST_SHIFT_MS, "Ends later than sung by", unit="ms"),
    "length_ms": number_kind(1.0, MOST_SHIFT_MS, "Length", unit="ms"),
    "length": number_kind(MIN_STRETCH, MAX_STRETCH, "Times as long as sung"),
}


def _later_by() -> Any:
    return number(-MOST_SHIFT_MS, MOST_SHIFT_MS, "Later by", unit="ms")


def _follow() -> Any:
    return switch("What comes after follows, up to the next pin", default=False)


@dataclass(frozen=True, kw_only=True)
class Slip(Operation, type="slip", label="Slip", rule=time_edits.slip, needs="content"):
    """Move notes later or earlier as a whole; what is around them gives way."""

    note_ids: Sequence[str] = note_ids()
    by_ms: float = _later_by()
    follow: bool = _follow()


@dataclass(frozen=True, kw_only=True)
class ShiftEdge(Operation, type="shift_edge", label="Start or length", rule=time_edits.shift_edge, needs="content"):
    """Have notes start, or end, later or earlier; their other end stays and their vowels give way."""

    note_ids: Sequence[str] = note_ids()
    edge: str = choice(SIDES, "Which end of them")
    by_ms: float = _later_by()
    follow: bool = _follow()


@dataclass(frozen=True, kw_only=True)
class SetTime(Operation, type="set_time", label="Time", rule=time_edits.set_time, needs="content"):
    """Set when notes start or end, or how long they last."""

    note_ids: Sequence[str] = note_ids()
    values: Mapping[str, float] = values(TIMES, "Times to set", {"start_shift_ms": -20.0})


@dataclass(frozen=True, kw_only=True)
class AddPin(Operation, type="pin", label="Pin", rule=time_edits.add_pin, needs="content"):
    """Hold a moment of the recording where it is in the track."""

    at_s: float = number(0.0, 1e6, "Moment in the recording", unit="seconds")


@dataclass(frozen=True, kw_only=True)
class RemovePins(Operation, type="unpin", label="Take pins away", rule=time_edits.remove_pins, needs="content"):
    """Take pins away; what they held still gives way again."""

    pin_ids: Sequence[str] = ids("Ids of the pins; all when empty", "p0001", default=())


@dataclass(frozen=True, kw_only=True)
class MovePins(Operation, type="move_pins", label="Move pins", rule=time_edits.move_pins, needs="content"):
    """Move pins later or earlier; between pins everything gives way."""

    pin_ids: Sequence[str] = ids("Ids of the pins; all when empty", "p0001")
    by_ms: float = number(-MOST_SHIFT_MS, MOST_SHIFT_MS, "Later by", unit="ms")


@dataclass(frozen=True, kw_only=True)
class Quantise(Operation, type="quantise", label="Quantise", rule=quantise.quantise, needs="lines", by_hand=False):
    """Bring the starts of notes to a grid of the song, or to where the notes of another track start."""

    note_ids: Sequence[str] = note_ids()
    grid: str = choice(tuple(GRIDS), "Steps of the grid", default="1/8")
    swing: float = number(0.5, 0.8, "Where every second step lies in its pair", default=0.5)
    onto: str | None = one_id("Id of another track whose notes to go by, in place of the grid", "t1", default=None)
    strength: float = number(0.0, 1.0, "How far notes go", default=1.0)
    beyond_ms: float = number(0.0, 1000.0, "Leave notes that are no further off", unit="ms", default=0.0)
    ends: bool = switch("Ends go to the grid too", default=False)
