"""Where and how one sound passes into another of the same take, so that neither click, beat nor flam is heard."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..document.items.borrows import Law
from ..plan.composing import FADE_S
from ..signal.types import Floats

_LOOK_S = 0.02  # over this long the two sides are compared
_STEP_S = 0.00025
_QUIET = 10.0 ** (-50.0 / 10.0)  # power that is silence in any take
_FURTHER = 0.03  # what the whole reach costs, against the loudest moment near
_ALIKE = 0.7  # correlation from which on the two sides are in step
_CLEAN = 0.1  # of the loudest moment near, what does not fit together at most


@dataclass(frozen=True)
class Join:
    """A crossfade of `length` samples around sample `at`; no length where both sides are the same sound.

    `misfit` is the power that does not fit together there, 0 to about 1 of the loudest moment near.
    """

    at: int
    length: int
    law: Law
    misfit: float

    @property
    def clean(self) -> bool:
        """True when nothing of it is heard."""
        return self.misfit <= _CLEAN

    @property
    def begin(self) -> int:
        """Its first sample."""
        return self.at - self.length // 2

    @property
    def end(self) -> int:
        """One past its last sample."""
        return self.begin + self.length


def place_join(left: Floats, right: Floats, *, sample_rate: int, asked: int, reach: int) -> Join:
    """The best join near sample `asked` of two sounds, shape (channels, n), that both reach as far around it.

    In order of choice: where both are the same samples; in silence; where both are in step.  The further away, the
    better it has to be.  Samples count from the start of the two arrays.
    """
    look = round(_LOOK_S * sample_rate)
    places = np.arange(max(asked - reach, look // 2), min(asked + reach, left.shape[1] - look // 2) + 1,
                       max(1, round(_STEP_S * sample_rate)))  # fmt: skip
    if len(places) == 0:
        return Join(asked, 0, "none", 1.0)
    apart = _power(left - right, places, look)
    power = (_power(left, places, look) + _power(right, places, look)) / 2.0
    together = (left * right).sum(axis=0)[None]
    alike = _mean(together, places, look) / np.maximum(power, 1e-30)
    far = np.abs(places - asked) / max(reach, 1)
    misfit = power * (1.0 - np.clip(alike, 0.0, 1.0)) / max(float(power.max()), _QUIET)
    same = apart == 0.0
    best = int(np.argmin(np.where(same, far - 10.0, misfit + _FURTHER * far)))
    if same[best]:
        return Join(int(places[best]), 0, "none", 0.0)
    law: Law = "equal gain" if alike[best] >= _ALIKE else "equal power"
    return Join(int(places[best]), round(FADE_S * sample_rate), law, float(misfit[best]))


def joined(left: Floats, right: Floats, *, law: Law, first: int, length: int) -> Floats:
    """Samples of a crossfade of `length` samples; both sides, shape (channels, n), begin at its sample `first`."""
    along = (first + np.arange(left.shape[1]) + 0.5) / length
    if law == "equal power":
        return np.cos(along * np.pi / 2) * left + np.sin(along * np.pi / 2) * right
    return left + along * (right - left)


def _power(sound: Floats, places: np.ndarray, look: int) -> Floats:
    return _mean((sound * sound).sum(axis=0)[None], places, look)


def _mean(values: Floats, places: np.ndarray, look: int) -> Floats:
    """Means over `look` samples around places."""
    total = np.concatenate(([0.0], np.cumsum(values[0])))
    low = places - look // 2
    return (total[low + look] - total[low]) / look
