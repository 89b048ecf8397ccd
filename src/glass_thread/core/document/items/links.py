"""Links: a track that follows another one or is made of it, by how much, and what it was given last."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields, is_dataclass
from hashlib import sha256
from typing import Any


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
    """A lead as it stands: its step, what it asks of the follower's notes by id, the notes that the follower sings
    alone, and the mark of the keys that they share."""

    step_id: str
    notes: Mapping[str, Led]
    alone: tuple[str, ...] = ()
    keys: str = ""


@dataclass(frozen=True)
class Link:
    """A track's link to the one it follows, as that stood at a step: strengths 0 to 1 and whether the whole movement
    of the pitch follows; of a derived track the operation it is made by, as plain data, in their place; moments of both
    that the user said belong together, and whether it catches up by itself.

    `base` has the mark of everything as the link gave it last, by id (`three_way.base_of`), of a follower of the notes
    that follow; `keys` is the mark of the keys that a scale was followed in, empty where none matters.
    """

    id: str
    lead_track: str
    lead_step: str
    timing: float
    pitch: float
    level: float
    movement: bool
    interval: str
    rule: Mapping[str, Any] | None = None
    anchors: tuple[tuple[float, float], ...] = ()
    by_itself: bool = False
    base: Mapping[str, str] = field(default_factory=dict)
    keys: str = ""

    @property
    def span_s(self) -> tuple[float, float]:
        """No place of its own."""
        return 0.0, 0.0


_MARK_DIGITS = 12


def mark_of(state: object) -> str:
    """A short mark that two states share when they are equal; the same in every release that knows their values.

    Values that are as usual are left out, so that a value that a later release adds changes no mark.
    """
    return sha256(repr(_unusual(state)).encode()).hexdigest()[:_MARK_DIGITS]


def _unusual(state: object) -> object:
    if is_dataclass(state) and not isinstance(state, type):
        pairs = ((one, getattr(state, one.name)) for one in fields(state))
        return [(one.name, _unusual(value)) for one, value in pairs if value != one.default]
    if isinstance(state, Mapping):
        return sorted((str(key), _unusual(value)) for key, value in state.items())
    return [_unusual(one) for one in state] if isinstance(state, (tuple, list)) else state
