"""Links: a track that follows another one, by how much, and what was asked of its notes for that."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..gestures import Gesture, Stroke


@dataclass(frozen=True)
class Led:
    """What a lead asks of a note of a follower.

    Attributes
    ----------
    start_s, end_s : float
        Seconds of the follower's track at which the lead starts and ends there.
    target_midi : float
        The lead's pitch with the interval that the two have.
    movement : tuple of (float, float)
        The lead's way through the note with that interval: seconds of the follower's recording, MIDI.
    level_db : float
        The change of level after which the note is as loud among the others as the lead's is.
    """

    note_id: str
    start_s: float
    end_s: float
    target_midi: float
    movement: tuple[tuple[float, float], ...]
    level_db: float


@dataclass(frozen=True)
class LeadNow:
    """A lead as it stands: its step, what it asks of the follower's notes by id, and the notes that the follower sings
    alone."""

    step_id: str
    notes: Mapping[str, Led]
    alone: tuple[str, ...] = ()


@dataclass(frozen=True)
class Given:
    """What a link gave a note: when it starts and ends, later than sung in ms, its target and pull, its level, and
    whether a curve."""

    start_ms: float
    end_ms: float
    target_midi: float | None
    pull: float
    level_db: float
    hand: tuple[Stroke, ...] = ()


@dataclass(frozen=True)
class Link:
    """A follower's link to the track it follows, as that stood at a step: strengths 0 to 1, whether the whole movement
    of the pitch follows, and what each note was given by it; of a derived track the operation it is made by, as plain
    data, in their place; moments of both that the user said belong together, and whether it catches up by itself."""

    id: str
    lead_track: str
    lead_step: str
    timing: float
    pitch: float
    level: float
    movement: bool
    interval: str
    notes: Mapping[str, Given]
    rule: Mapping[str, Any] | None = None
    anchors: tuple[tuple[float, float], ...] = ()
    by_itself: bool = False

    @property
    def span_s(self) -> tuple[float, float]:
        """No place of its own."""
        return 0.0, 0.0


def given_of(gesture: Gesture) -> Given:
    """What stands in a gesture of what a link may give."""
    return Given(*gesture.times_ms, gesture.target_midi, gesture.pull, gesture.level_db, gesture.hand)
