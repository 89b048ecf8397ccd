"""Values read on beyond their ends as they have moved so far, so that a filter sees whole turns of what swings."""

from __future__ import annotations

import numba
import numpy as np

from .types import Floats

_STEP = 3  # values; what swings at up to 9 Hz has over seven steps a turn on the 5 ms grid
_ORDER = 14  # a fifth of a second of memory


def read_on_at_ends(values: Floats, more: int) -> Floats:
    """Shape (n,) with `more` values added at both ends, shape (n + 2 · more,).

    Movement around the straight line through the values goes on by linear prediction, dying away (J. P. Burg, Maximum
    entropy spectral analysis, dissertation, Stanford 1975); the line itself goes on.
    """
    n = len(values)
    place = np.arange(n) - (n - 1) / 2.0
    slope = float(np.dot(place, values) / max(np.dot(place, place), 1.0)) if n > 2 * _ORDER else 0.0
    line = values.mean() + slope * place
    rest = values - line
    beyond = np.arange(1, more + 1)
    before = (line[0] - slope * beyond)[::-1] + _ahead(rest[::-1], more)[::-1]
    return np.concatenate((before, values, line[-1] + slope * beyond + _ahead(rest, more)))


def _ahead(rest: Floats, more: int) -> Floats:
    """The next `more` values of a movement around zero."""
    known = rest[::-1][::_STEP][::-1]
    order = min(_ORDER, len(known) // 2)
    if order < 2 or not known.any():
        return np.zeros(more)
    steps = more // _STEP + 2
    future = _gone_on(np.ascontiguousarray(known), order, steps)
    return np.interp(np.arange(1, more + 1), np.arange(steps + 1) * _STEP, np.concatenate((known[-1:], future)))


@numba.njit(cache=True, nogil=True)
def _gone_on(known: Floats, order: int, steps: int) -> Floats:
    """What the prediction error filter of some values, shape (n,), lets follow on them, shape (steps,)."""
    model = _burg(known, order)
    all_of = np.concatenate((known[len(known) - order :], np.zeros(steps)))
    for at in range(order, order + steps):
        for back in range(1, order + 1):
            all_of[at] -= model[back] * all_of[at - back]
    return all_of[order:]


@numba.njit(cache=True, nogil=True)
def _burg(values: Floats, order: int) -> Floats:
    """Coefficients of the prediction error filter, shape (order + 1,), the first one 1; always stable."""
    forward, backward, model = values[1:].copy(), values[:-1].copy(), np.zeros(order + 1)
    model[0] = 1.0
    n = len(forward)
    for turn in range(order):
        power, both = 0.0, 0.0
        for i in range(n):
            power += forward[i] * forward[i] + backward[i] * backward[i]
            both += forward[i] * backward[i]
        reflected = -2.0 * both / power if power > 1e-18 else 0.0
        turned = model[: turn + 2][::-1].copy()
        for i in range(turn + 2):
            model[i] += reflected * turned[i]
        for i in range(n - 1):
            ahead = forward[i + 1] + reflected * backward[i + 1]
            backward[i] = backward[i] + reflected * forward[i]
            forward[i] = ahead
        n -= 1
    return model
