"""Whether what was worked out piece by piece is what is worked out anew: contents, plans, verdicts and sound."""

from __future__ import annotations

import numpy as np

from ...core.plan.plan import Plan
from .desk import Desk, Standing


def disagreements(live: Desk, fresh: Desk, standing: Standing, *, sound: bool) -> list[str]:
    """What differs between a standing as one desk has it and as another one, which has seen nothing, works it out; in
    words, none when all is the same to the last bit."""
    again = fresh.at(standing.track.id, standing.step_id, even_removed=True)
    found = []
    if standing.content != again.content:
        found.append("content")
    if standing.content.choices:
        return found + (_of_sound(live, fresh, standing, again) if sound else [])
    found += [f"plan: {name}" for name in _plans_apart(live.plan(standing), fresh.plan(again))]
    verdicts = live.verdicts(standing), fresh.verdicts(again)
    found += ["verdicts"] if verdicts[0].notes != verdicts[1].notes else []
    return found + (_of_sound(live, fresh, standing, again) if sound else [])


def _plans_apart(one: Plan, other: Plan) -> list[str]:
    """The parts in which two plans differ."""
    curves = ("correction", "formant", "level_db", "glaze")
    pairs = [(name, getattr(one, name), getattr(other, name)) for name in curves]
    pairs.append(("contour", one.contour.midi, other.contour.midi))
    found = [name for name, a, b in pairs if not np.array_equal(a, b, equal_nan=True)]
    return found + [name for name in ("stretches", "borrows") if getattr(one, name) != getattr(other, name)]


def _of_sound(live: Desk, fresh: Desk, standing: Standing, again: Standing) -> list[str]:
    takes = live.take(standing), fresh.take(again)
    if takes[0].length != takes[1].length:
        return ["sound: length"]
    step = 10 * standing.track.sample_rate
    for begin in range(0, takes[0].length, step):
        end = min(begin + step, takes[0].length)
        if not np.array_equal(takes[0].span(begin, end), takes[1].span(begin, end)):
            return [f"sound from {begin / standing.track.sample_rate:.2f} s"]
    return []
