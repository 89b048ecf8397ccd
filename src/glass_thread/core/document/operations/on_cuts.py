"""Operations on where notes begin and end, and how their pitch is read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...analysis.pitch.f0 import MAX_HZ, MIN_HZ
from .kinds import choice, ids, number, one_id, switch, whole
from .on_notes import note_ids
from .operation import Operation
from .rules import air_edits, note_edits

SIDES = ("start", "end")


@dataclass(frozen=True, kw_only=True)
class Split(Operation, type="split", label="Split", rule=note_edits.split, needs="sound"):
    """Cut a note in two; both keep what was asked of it, and each takes its own nearest allowed target."""

    note_id: str = one_id("Id of the note", "n0003")
    at_s: float = number(0.0, 1e6, "Where", unit="seconds")
    exact: bool = switch("At the very place, not at the best one near it", default=False)


@dataclass(frozen=True, kw_only=True)
class SplitTwoPitches(
    Operation, type="split_two_pitches", label="Split what holds two pitches", rule=note_edits.split_two_pitches,
    needs="sound",
):  # fmt: skip
    """Cut every note that holds two pitches where one passes into the other."""

    note_ids: Sequence[str] = ids("Ids of the notes; all when empty", "n0003", default=())


@dataclass(frozen=True, kw_only=True)
class Join(Operation, type="join", label="Join", rule=note_edits.join, needs="sound"):
    """Make one note of neighbours; it keeps what was asked of the longest."""

    note_ids: Sequence[str] = note_ids()


@dataclass(frozen=True, kw_only=True)
class MoveEdge(Operation, type="move_edge", label="Edge", rule=note_edits.move_edge, needs="sound"):
    """Move the start or end of a note."""

    note_id: str = one_id("Id of the note", "n0003")
    side: str = choice(SIDES, "Which edge")
    at_s: float = number(0.0, 1e6, "To", unit="seconds")
    follow: bool = switch("A neighbour that touches the edge follows", default=True)


@dataclass(frozen=True, kw_only=True)
class MakeNote(Operation, type="make_note", label="Make a note", rule=note_edits.make_note, needs="sound"):
    """Make a note of a voiced stretch that belongs to none."""

    start_s: float = number(0.0, 1e6, "From", unit="seconds")
    end_s: float = number(0.0, 1e6, "To", unit="seconds")


@dataclass(frozen=True, kw_only=True)
class MoveOctave(Operation, type="move_octave", label="Octave", rule=note_edits.move_octave, needs="sound"):
    """Correct notes that were read an octave wrong; the sound does not change by it."""

    note_ids: Sequence[str] = note_ids()
    octaves: int = whole(-2, 2, "Octaves up")


@dataclass(frozen=True, kw_only=True)
class CentreHere(Operation, type="centre_here", label="Centre here", rule=note_edits.centre_here, needs="sound"):
    """Judge a note's centre by the part between two times."""

    note_id: str = one_id("Id of the note", "n0003")
    start_s: float = number(0.0, 1e6, "From", unit="seconds")
    end_s: float = number(0.0, 1e6, "To", unit="seconds")


@dataclass(frozen=True, kw_only=True)
class ReadAgain(Operation, type="read_again", label="Read again", rule=note_edits.read_again, needs="readings"):
    """Find the pitch of notes again within a range; the recording is looked at where they lie."""

    note_ids: Sequence[str] = note_ids()
    low_hz: float = number(MIN_HZ, MAX_HZ, "Lowest pitch", unit="Hz", default=MIN_HZ)
    high_hz: float = number(MIN_HZ, MAX_HZ, "Highest pitch", unit="Hz", default=MAX_HZ)


@dataclass(frozen=True, kw_only=True)
class Recut(Operation, type="recut", label="Cut again", rule=note_edits.recut, needs="sound"):
    """Cut again with more or fewer notes; notes that come out alike keep what was asked of them."""

    sensitivity: float = number(-3.0, 3.0, "More (+) or fewer (−) notes")
    note_ids: Sequence[str] = ids("Only where these notes lie; the whole track when empty", "n0003", default=())


@dataclass(frozen=True, kw_only=True)
class MakeAir(Operation, type="make_air", label="Air, no note", rule=air_edits.make_air, needs="content"):
    """Say that these are no notes but air: nothing of them is pitch-shifted any more."""

    note_ids: Sequence[str] = note_ids()
