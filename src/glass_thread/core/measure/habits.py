"""What a singer tends to do, claimed only where the notes carry it: trimmed means with bootstrap intervals.

The mean without the outer sixths is nearly as exact as a mean where values spread evenly, and nearly as safe as a
median where a few are wrong (Tukey 1960, "A survey of sampling from contaminated distributions").  The bootstrap is
Efron's (1979, "Bootstrap methods: another look at the jackknife"), with the interval between percentiles.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..signal.types import Floats
from .habit_table import HABITS, Habit, Seen, word_habits
from .observations import Observed

Kind = Literal["fault", "praise"]
_TIMES, _SURE = 600, 99.0
_SEED = 17


@dataclass(frozen=True)
class Claim:
    """A habit that the notes carry: its size with the interval it lies in, on how many of how many notes, every value,
    and the three places where it is clearest; `weight` orders claims."""

    name: str
    kind: Kind
    size: float
    low: float
    high: float
    unit: str
    count: int
    of: int
    seen: tuple[Seen, ...]
    clearest: tuple[int, ...]
    words: str
    practise: str
    weight: float


def middle(values: Floats) -> Floats:
    """The mean of the last axis without its outer sixths."""
    left_out = values.shape[-1] // 6
    ordered = np.sort(values, axis=-1)
    return np.asarray(ordered[..., left_out : values.shape[-1] - left_out].mean(axis=-1))


def interval(values: Floats, seed: int = _SEED) -> tuple[float, float]:
    """The interval in which their middle lies, to 99 %."""
    rng = np.random.default_rng(seed)
    drawn = values[rng.integers(0, len(values), (_TIMES, len(values)))]
    low, high = np.percentile(middle(drawn), [(100.0 - _SURE) / 2.0, (100.0 + _SURE) / 2.0])
    return float(low), float(high)


def claims(notes: Sequence[Observed]) -> list[Claim]:
    """All that can be claimed of notes, the weightiest first, faults before praise."""
    habits = (*HABITS, *word_habits(notes))
    found = [(habit, claim) for habit in habits if (claim := _claim(habit, notes)) is not None]
    found.sort(key=lambda pair: (pair[1].kind == "praise", -pair[1].weight))
    told, explained = list[Claim](), set[int]()
    for habit, claim in found:
        if habit.of_centres and claim.kind == "fault":
            if explained and not _still_carried(habit, notes, explained):
                continue
            explained |= {one.place for one in claim.seen}
        told.append(claim)
    return told


def _still_carried(habit: Habit, notes: Sequence[Observed], explained: Collection[int]) -> bool:
    """Whether a fault is there also on the notes of which no weightier one speaks: low notes that are flat because they
    begin phrases are no habit of their own."""
    again = _claim(habit, notes, explained)
    return again is not None and again.kind == "fault"


def _claim(habit: Habit, notes: Sequence[Observed], without: Collection[int] = ()) -> Claim | None:
    seen = [one for one in habit.look(notes) if np.isfinite(one.value) and one.place not in without]
    if len(seen) < habit.least:
        return None
    values = np.array([one.value for one in seen])
    size, (low, high) = float(middle(values)), interval(values)
    off = size - habit.usual
    beyond = low > habit.usual + habit.over or high < habit.usual - habit.over
    within = low > habit.usual - habit.over and high < habit.usual + habit.over
    if not beyond and not (within and habit.well and len(seen) >= 2 * habit.least):
        return None
    if beyond:
        counts = np.sign(off) * (values - habit.usual) > 0.5 * abs(off)
    else:
        counts = np.abs(values - habit.usual) <= 2.0 * habit.over
    order = np.argsort(-np.sign(off) * values if beyond else np.abs(values - habit.usual))
    said = habit.above if off > 0 else habit.below
    return Claim(
        habit.name, "fault" if beyond else "praise", size, low, high, habit.unit, int(counts.sum()), len(seen),
        tuple(seen), tuple(seen[i].place for i in order[:3]), (said if beyond else habit.well).format(size=_size(size)),
        habit.practise[0 if off > 0 else 1] if beyond else "",
        abs(off) / habit.over * float(np.sqrt(counts.sum())) if beyond else float(np.sqrt(len(seen))),
    )  # fmt: skip


def _size(value: float) -> str:
    return f"{abs(value):.0f}" if abs(value) >= 10.0 else f"{abs(value):.1f}"
