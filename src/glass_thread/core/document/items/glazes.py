"""Glazes: a last, automatic pull to allowed pitches over a range, on top of what the notes' own gestures ask for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from ...signal.types import HOP_S, Rounding
from ..gestures import EDITION

SHORTEST_RANGE_S = 2 * HOP_S


@dataclass(frozen=True)
class Glaze:
    """A glaze over [start_s, end_s) of the recording.

    Attributes
    ----------
    settle_ms : float
        How soon the pitch arrives: after a step it has gone 63 % of its way in this time, 0 to 400.
    strength : float
        How far it goes, 0 to 1.
    rounding : str
        Which pitches are allowed: "scale" or "semitone".
    tolerance_cents : float
        What lies this near to an allowed pitch is left alone; of what is further off, only what is beyond it moves.
    shortest_ms : float
        How long a pitch must be held to count as one that was meant.
    keep_vibrato : bool
        The vibrato stays as it is; otherwise it is smoothed as far as the settle time lets the pull follow it.
    edition : int
        In edition 1, of release 0.1, drift and vibrato were what a detector fitted; such a glaze keeps sounding so.
    """

    id: str
    start_s: float
    end_s: float
    settle_ms: float = 80.0
    strength: float = 1.0
    rounding: Rounding = "scale"
    tolerance_cents: float = 12.0
    shortest_ms: float = 90.0
    keep_vibrato: bool = True
    edition: int = EDITION

    @property
    def span_s(self) -> tuple[float, float]:
        """Start and end in seconds."""
        return self.start_s, self.end_s


@dataclass(frozen=True)
class GlazePreset:
    """Settings with a name, and what they are for in one sentence."""

    name: str
    words: str
    settle_ms: float
    strength: float
    tolerance_cents: float
    shortest_ms: float
    keep_vibrato: bool


# Settle times of 50 to 100 ms for a lead: common practice, no source; so are the rest.
PRESETS: tuple[GlazePreset, ...] = (
    GlazePreset("Lead", "Closes what is left on a lead that was tuned by hand, so gently that nobody hears it arrive.",
                90.0, 0.85, 12.0, 110.0, True),
    GlazePreset("Stack", "Brings doubles and harmonies closer together than a lead would bear.",
                45.0, 1.0, 5.0, 80.0, True),
    GlazePreset("Hard", "Every note sits on its pitch at once and its vibrato goes: an effect, meant to be heard.",
                0.0, 1.0, 0.0, 50.0, False),
)  # fmt: skip


def without(glazes: Mapping[str, Glaze], start_s: float, end_s: float, names: Sequence[str]) -> dict[str, list[Glaze]]:
    """What is left of each glaze that meets a range once the range is taken out of it.

    A glaze that is cut in two keeps its id in front; the rest takes the next of `names`.
    """
    left: dict[str, list[Glaze]] = {}
    fresh = iter(names)
    for glaze in glazes.values():
        if glaze.end_s <= start_s or glaze.start_s >= end_s:
            continue
        parts = [replace(glaze, end_s=start_s), replace(glaze, start_s=end_s)]
        parts = [part for part in parts if part.end_s - part.start_s >= SHORTEST_RANGE_S]
        left[glaze.id] = [part if i == 0 else replace(part, id=next(fresh)) for i, part in enumerate(parts)]
    return left
