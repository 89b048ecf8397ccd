"""Comps: which version of a track sounds when.

A comp is a version whose content holds choices and no edits of its own.  Each choice sounds from where it starts until
the next one starts; times are seconds of the track.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

SHORTEST_CHOICE_S, SHORTEST_LEFT_S = 0.02, 0.002


@dataclass(frozen=True)
class Choice:
    """From `start_s` of the track on, the version `version_id` as it stood at the step `step_id` sounds."""

    id: str
    start_s: float
    version_id: str
    step_id: str

    @property
    def span_s(self) -> tuple[float, float]:
        """Where it starts, twice; it ends where the next one starts."""
        return self.start_s, self.start_s


Chosen = tuple[str, str]  # a version and a step of it
Choices = Mapping[str, Choice]


def in_order(choices: Choices) -> list[Choice]:
    """Choices by their start."""
    return sorted(choices.values(), key=lambda choice: choice.start_s)


def spans_of(choices: Choices) -> list[tuple[float, float, Choice]]:
    """Start and end of every choice in seconds of the track; the last one ends at infinity."""
    ordered = in_order(choices)
    ends = [choice.start_s for choice in ordered[1:]] + [float("inf")]
    return [(choice.start_s, end, choice) for choice, end in zip(ordered, ends, strict=True)]


def chosen_at(choices: Choices, track_s: float) -> Choice | None:
    """What sounds at a moment of the track; None when nothing was chosen yet."""
    before = [choice for choice in in_order(choices) if choice.start_s <= track_s]
    return before[-1] if before else None


def with_spans(choices: Choices, wanted: Sequence[tuple[float, float, Chosen]], names: Sequence[str]) -> list[Choice]:
    """The choices after stretches of the track were chosen anew, in order; neighbours that are alike become one.

    Choices that go on keep their ids; new ones take the next of `names`.
    """
    borders: dict[float, Chosen | None] = {c.start_s: (c.version_id, c.step_id) for c in choices.values()}
    for start_s, end_s, chosen in wanted:
        after = _at(borders, end_s)
        borders = {at: one for at, one in borders.items() if not start_s <= at < end_s}
        borders[start_s] = chosen
        if end_s < float("inf"):
            borders.setdefault(end_s, after)
    known = {(c.start_s, c.version_id, c.step_id): c.id for c in choices.values()}
    fresh = iter(names)
    found: list[Choice] = []
    ends = [*sorted(borders)[1:], float("inf")]
    for (at, here), end_s in zip(sorted(borders.items()), ends, strict=True):
        if found and end_s - at < SHORTEST_LEFT_S:  # what is left of one between two others
            continue
        if here is None or (found and (found[-1].version_id, found[-1].step_id) == here):
            continue
        found.append(Choice(known.get((at, *here)) or next(fresh), at, *here))
    return found


def _at(borders: Mapping[float, Chosen | None], at_s: float) -> Chosen | None:
    before = [at for at in borders if at <= at_s]
    return borders[max(before)] if before else None


def changed_choices(before: Choices, after: Choices) -> list[tuple[float, float]]:
    """Stretches of the track in seconds in which two sets of choices differ; the last one may end at infinity."""
    if before == after:
        return []
    marks = sorted({0.0, *(c.start_s for c in (*before.values(), *after.values()))})
    ends = [*marks[1:], float("inf")]
    sides = zip(_sounding(before, marks), _sounding(after, marks), strict=True)
    return [(a, b) for a, b, (old, new) in zip(marks, ends, sides, strict=True) if old != new]


def _sounding(choices: Choices, moments: Sequence[float]) -> list[Chosen | None]:
    """What sounds at each of several moments."""
    ordered = in_order(choices)
    places = np.searchsorted([choice.start_s for choice in ordered], moments, side="right")
    chosen = [None, *((choice.version_id, choice.step_id) for choice in ordered)]
    return [chosen[place] for place in places]
