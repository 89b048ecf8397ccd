"""Values read on beyond their ends as they have moved so far, so that a filter sees whole turns of what swings."""

from __future__ import annotations

import numpy as np
import scipy

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
    model = _burg(known, order)
    state = scipy.signal.lfiltic([1.0], model, known[::-1][:order])
    steps = more // _STEP + 2
    future, _ = scipy.signal.lfilter([1.0], model, np.zeros(steps), zi=state)
    return np.interp(np.arange(1, more + 1), np.arange(steps + 1) * _STEP, np.concatenate((known[-1:], future)))


def _burg(values: Floats, order: int) -> Floats:
    """Coefficients of the prediction error filter, shape (order + 1,), the first one 1; always stable."""
    forward, backward, model = values[1:], values[:-1], np.ones(1)
    for _ in range(order):
        power = float(np.dot(forward, forward) + np.dot(backward, backward))
        reflected = -2.0 * float(np.dot(forward, backward)) / power if power > 1e-18 else 0.0
        model = np.append(model, 0.0) + reflected * np.append(0.0, model[::-1])
        forward, backward = (forward + reflected * backward)[1:], (backward + reflected * forward)[:-1]
    return model
