"""Stretches of a recording that take longer or shorter in the track, and where its moments go by them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ...signal.signal_tools import mapped

Give = Literal["silence", "breath", "vowel"]


@dataclass(frozen=True)
class Stretch:
    """A stretch of the recording, in seconds, and how long it takes in the track."""

    start_s: float
    end_s: float
    length_s: float
    kind: Give

    @property
    def added_s(self) -> float:
        """By how much it is longer."""
        return self.length_s - (self.end_s - self.start_s)


def track_anchors(stretches: Sequence[Stretch]) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Moments of the recording and of the track between which the map is straight; beyond them nothing is stretched."""
    source: list[float] = []
    track: list[float] = []
    shift = 0.0
    for stretch in stretches:
        for at in (stretch.start_s, stretch.end_s):
            if at == stretch.end_s:
                shift += stretch.added_s
            there = round(at + shift, 9)  # a sum in another order is the same moment
            if source and at - source[-1] < 1e-9:
                track[-1] = there
            else:
                source.append(at)
                track.append(there)
    return tuple(source), tuple(track)


def track_place(stretches: Sequence[Stretch], at_s: float) -> float:
    """Where a moment of the recording lies in the track, in seconds."""
    return float(mapped(at_s, *track_anchors(stretches)))
