"""Borrows: stretches of a recording in whose place another one, or another place of the same one, is heard.

What is borrowed is laid into the recording, so that notes, air, plan and sound see one recording.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from ...signal.signal_tools import mapped
from ...signal.types import Floats
from ..time.stretches import Stretch, track_anchors

Law = Literal["none", "equal gain", "equal power"]


@dataclass(frozen=True)
class Fade:
    """How one sound passes into the other: over how many seconds, by which law, and whether nothing of it is heard."""

    length_s: float
    law: Law
    clean: bool


@dataclass(frozen=True)
class Borrow:
    """From `start_s` to `end_s` of the recording another one is heard, from its moment `from_s` on.

    Attributes
    ----------
    audio, analysis : str
        The other recording by its content, and what was found in it.
    name : str
        Where it is from, in words.
    stretches : tuple of Stretch
        Stretches of the other recording that are longer or shorter here than there.
    fade_in, fade_out : Fade
        Around `start_s` and `end_s`.
    """

    id: str
    start_s: float
    end_s: float
    from_s: float
    audio: str
    analysis: str
    name: str
    fade_in: Fade
    fade_out: Fade
    stretches: tuple[Stretch, ...] = ()

    @property
    def span_s(self) -> tuple[float, float]:
        """Start and end in seconds of the recording it is laid into, with its fades."""
        return self.start_s - self.fade_in.length_s / 2.0, self.end_s + self.fade_out.length_s / 2.0

    @property
    def length_s(self) -> float:
        """How long it lasts."""
        return self.end_s - self.start_s

    def places_of(self, from_s: ArrayLike) -> Floats:
        """Where moments of the other recording lie, in seconds of the one it is laid into."""
        return self.start_s + stretched(self.stretches, from_s) - stretched(self.stretches, self.from_s)

    def moments_at(self, at_s: ArrayLike) -> Floats:
        """The moments of the other recording that are heard at places of the one it is laid into."""
        there = np.asarray(at_s, dtype=np.float64) - self.start_s + stretched(self.stretches, self.from_s)
        return stretched(self.stretches, there, back=True)


def stretched(stretches: Sequence[Stretch], at_s: ArrayLike, *, back: bool = False) -> Floats:
    """Seconds after some stretches of moments before them; `back` the other way."""
    given, wanted = track_anchors(stretches)
    return mapped(at_s, wanted, given) if back else mapped(at_s, given, wanted)


def over(borrows: Sequence[Borrow], start_s: float, end_s: float) -> list[Borrow]:
    """Those that reach into a stretch of the recording."""
    return [one for one in borrows if one.span_s[0] < end_s and one.span_s[1] > start_s]


def taken_over(borrows: Iterable[Borrow], laid: Borrow) -> list[Borrow]:
    """Those in whose place a new one is laid: it covers their middle."""
    return [one for one in borrows if laid.start_s <= (one.start_s + one.end_s) / 2.0 < laid.end_s]


def in_layers(borrows: Iterable[Borrow]) -> list[Borrow]:
    """In the order in which they were laid; where two meet, the later one lies over the earlier one."""
    return sorted(borrows, key=lambda one: (len(one.id), one.id))
