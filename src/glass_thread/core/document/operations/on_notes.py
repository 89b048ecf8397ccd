"""Operations on what is asked of notes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..flags import FLAG_KINDS
from ..gestures import AS_SUNG_ALLOWED, ASPECTS, RANGES, ROUNDINGS
from .kinds import (
    Kind,
    choice,
    choice_kind,
    choices,
    ids,
    number,
    number_kind,
    points,
    switch,
    text_kind,
    texts,
    values,
    whole,
)
from .operation import Operation
from .rules import flag_edits, gesture_edits, level_passes, note_values

NOTES = "Ids of the notes"
SETTABLE: dict[str, Kind] = {
    "target": text_kind("Target as text: a name with cents, a MIDI number or a frequency", "F#4 +8"),
    "rounding": choice_kind(ROUNDINGS, "What the target rounds to"),
    **{
        name: number_kind(low, high, words, none="as sung" if name in AS_SUNG_ALLOWED else "")
        for name, (low, high, words) in RANGES.items()
    },
}
CHANGEABLE: dict[str, Kind] = {
    name: number_kind(low - high, high - low, f"{words}, changed by")
    for name, (low, high, words) in RANGES.items()
    if name != "target_midi"
}


def note_ids() -> Any:
    """A field for the notes an operation acts on."""
    return ids(NOTES, "n0003")


@dataclass(frozen=True, kw_only=True)
class SetValues(Operation, type="set", label="Set", rule=note_values.set_values, needs="notes"):
    """Set values of notes; a target implies full pull when there is none."""

    note_ids: Sequence[str] = note_ids()
    values: Mapping[str, Any] = values(SETTABLE, "Values to set", {"pull": 0.8})


@dataclass(frozen=True, kw_only=True)
class Nudge(Operation, type="nudge", label="Change", rule=gesture_edits.nudge, needs="notes"):
    """Change values by an amount; each note keeps its own start and stays within the range."""

    note_ids: Sequence[str] = note_ids()
    values: Mapping[str, float] = values(CHANGEABLE, "Amounts to change values by", {"level_db": -1.0})


@dataclass(frozen=True, kw_only=True)
class Tune(Operation, type="tune", label="Tune", rule=note_values.tune, needs="notes"):
    """Put notes on the nearest pitch their rounding allows."""

    note_ids: Sequence[str] = note_ids()
    pull: float = number(0.0, 1.0, "How far centres go to their targets", default=1.0)
    rounding: str | None = choice(ROUNDINGS, "What targets round to; each note's own when left out", default=None)


@dataclass(frozen=True, kw_only=True)
class Move(Operation, type="move", label="Move", rule=note_values.move, needs="notes"):
    """Move targets by steps of each note's rounding, or by cents; what was as sung starts from where it was heard."""

    note_ids: Sequence[str] = note_ids()
    steps: int = whole(-60, 60, "Steps of the rounding", default=0)
    cents: float = number(-6000.0, 6000.0, "Move", unit="cents", default=0.0)


@dataclass(frozen=True, kw_only=True)
class SetCandidates(
    Operation, type="set_candidates", label="Two candidates", rule=note_values.set_candidates, needs="notes"
):
    """Name two targets to choose between by ear; the first one sounds."""

    note_ids: Sequence[str] = note_ids()
    targets: Sequence[str] = texts("Two targets as text", 2, ["F#4", "G4"])


@dataclass(frozen=True, kw_only=True)
class SwapCandidates(
    Operation, type="swap_candidates", label="The other candidate", rule=note_values.swap_candidates, needs="notes"
):
    """Let the other of two candidates sound."""

    note_ids: Sequence[str] = note_ids()


@dataclass(frozen=True, kw_only=True)
class Straighten(Operation, type="straighten", label="Straighten", rule=gesture_edits.straighten, needs="sound"):
    """Take the drift out and keep the pitch that the note has at one end."""

    note_ids: Sequence[str] = note_ids()
    side: str = choice(("in", "out"), "The end whose pitch is kept")


@dataclass(frozen=True, kw_only=True)
class SoftenJoins(
    Operation, type="soften_joins", label="Soften the joins", rule=gesture_edits.soften_joins, needs="notes"
):
    """Give the glide into each note a length from the interval and from how long both notes are."""

    note_ids: Sequence[str] = note_ids()
    amount: float = number(0.2, 3.0, "Factor on that length", default=1.0)


@dataclass(frozen=True, kw_only=True)
class Draw(Operation, type="draw", label="Hand curve", rule=gesture_edits.draw, needs="notes"):
    """Put a pitch drawn by hand over every note it crosses."""

    points: Sequence[Sequence[float]] = points("Line of (seconds in the recording, MIDI pitch)")
    keep_fine: bool = switch("Keep the voice's own fine movement", default=True)


@dataclass(frozen=True, kw_only=True)
class RubOut(Operation, type="rub_out", label="Rub out", rule=gesture_edits.rub_out, needs="notes"):
    """Take hand curves away between two times; where there are none, the voice comes back as it was sung."""

    start_s: float = number(0.0, 1e6, "From", unit="seconds")
    end_s: float = number(0.0, 1e6, "To", unit="seconds")


@dataclass(frozen=True, kw_only=True)
class CopyGestures(
    Operation, type="copy_gestures", label="Copy gestures", rule=gesture_edits.copy_gestures, needs="content"
):
    """Give notes the gestures of others, in order of time and over again."""

    from_ids: Sequence[str] = ids("Ids of the notes to copy from", "n0003")
    to_ids: Sequence[str] = ids("Ids of the notes to copy to", "n0007")
    targets: bool = switch("Copy targets along", default=True)
    timing: bool = switch("Copy timing along", default=False)


@dataclass(frozen=True, kw_only=True)
class PutBack(Operation, type="put_back", label="Put back as sung", rule=note_values.put_back, needs="content"):
    """Put one aspect of notes, or everything, back as sung."""

    note_ids: Sequence[str] = note_ids()
    aspect: str = choice(tuple(ASPECTS), "What is put back", default="all")


@dataclass(frozen=True, kw_only=True)
class TunePass(
    Operation, type="tune_pass", label="Tune pass", rule=note_values.tune_pass, needs="notes", by_hand=False
):
    """Correct many notes at once."""

    note_ids: Sequence[str] = note_ids()
    pull: float = number(0.0, 1.0, "How far centres go to their targets", default=1.0)
    within_cents: float = number(0.0, 100.0, "Pull only to within so far of targets", unit="cents", default=0.0)
    movement: float = number(0.0, 2.0, "Factor on drift and vibrato together", default=1.0)
    drift: float = number(0.0, 2.0, "Factor on drift", default=1.0)
    vibrato: float = number(0.0, 3.0, "Factor on vibrato", default=1.0)
    scoop: float = number(0.0, 2.0, "Factor on the way in", default=1.0)
    fall: float = number(0.0, 2.0, "Factor on the way out", default=1.0)
    rounding: str = choice(("scale", "semitone"), "What targets round to", default="scale")
    beyond_cents: float = number(0.0, 1200.0, "Leave notes nearer to their target", unit="cents", default=0.0)
    keep_edited: bool = switch("Keep what was set by hand", default=True)
    spoken: bool = switch("Tune what is spoken too", default=False)


@dataclass(frozen=True, kw_only=True)
class EvenOut(Operation, type="even_out", label="Even out", rule=level_passes.even_out, needs="notes", by_hand=False):
    """Move notes towards the part's typical level."""

    note_ids: Sequence[str] = note_ids()
    lift: float = number(0.0, 1.0, "Share by which quiet notes come up", default=0.0)
    hold: float = number(0.0, 1.0, "Share by which loud notes come down", default=0.0)


@dataclass(frozen=True, kw_only=True)
class LeaveAsSung(
    Operation, type="leave_as_sung", label="Leave as sung", rule=note_values.leave_as_sung, needs="notes"
):
    """Put the pitch of notes back as sung, and have passes, glazes and followers leave it so until a hand edits it."""

    note_ids: Sequence[str] = note_ids()
    leave: bool = switch("They are left as sung", default=True)


@dataclass(frozen=True, kw_only=True)
class MarkSpoken(Operation, type="mark_spoken", label="Spoken", rule=flag_edits.mark_spoken, needs="notes"):
    """Say that notes are talk, which has no flags and is left alone by passes, or that they are sung."""

    note_ids: Sequence[str] = note_ids()
    spoken: bool = switch("They are spoken", default=True)


@dataclass(frozen=True, kw_only=True)
class MeanSo(Operation, type="mean_so", label="Meant so", rule=flag_edits.mean_so, needs="notes"):
    """Take flags of some kinds off notes because they are meant, or let them be shown again."""

    note_ids: Sequence[str] = note_ids()
    kinds: Sequence[str] = choices(FLAG_KINDS, "Which flags", default=FLAG_KINDS)
    meant: bool = switch("They are meant", default=True)
