"""Where a version or comp sounds other than the recording does, in seconds of the track."""

from __future__ import annotations

import numpy as np

from ..core.document.comps import spans_of
from ..core.plan.composing import LONGEST_S, REACH_S
from ..core.plan.plan import changed_spans, untouched_plan
from .desk import Desk, Standing
from .print_layout import Layout

_MARGIN_S = 0.05  # what a rendered run reaches beyond its frames: splices and a displacement of half a period


def edited_spans(desk: Desk, standing: Standing, layout: Layout | None = None) -> tuple[tuple[float, float], ...]:
    """Stretches in which samples may differ, in order and apart; with what a layout silences and fades."""
    untouched = untouched_plan(standing.analysis)
    found = _faded(layout, standing.track.sample_rate) if layout else []
    if not standing.content.choices:
        found += changed_spans(untouched, desk.plan(standing))
    reach = REACH_S + LONGEST_S
    for start_s, end_s, choice in spans_of(standing.content.choices) if standing.content.choices else ():
        part = desk.at(standing.track.id, choice.step_id)
        for a, b in changed_spans(untouched, desk.plan(part)):
            # A run that a border cuts is rendered to its end.
            if b > start_s - reach and a < end_s + reach:
                found.append((a, b))
    return _apart([(max(0.0, a - _MARGIN_S), b + _MARGIN_S) for a, b in found], standing.track.duration_s + 60.0)


def _faded(layout: Layout, rate: int) -> list[tuple[float, float]]:
    """What lies between the chosen stretches, with their fades."""
    if not layout.spans:
        return []
    ends = [layout.first, *(at for span in layout.spans for at in span), layout.last]
    gaps = zip(ends[::2], ends[1::2], strict=True)
    return [((a - layout.fade) / rate, (b + layout.fade) / rate) for a, b in gaps]


def _apart(spans: list[tuple[float, float]], end_s: float) -> tuple[tuple[float, float], ...]:
    joined: list[tuple[float, float]] = []
    for a, b in sorted(spans):
        if joined and a <= joined[-1][1]:
            joined[-1] = (joined[-1][0], max(joined[-1][1], b))
        else:
            joined.append((a, b))
    return tuple((round(a, 4), round(float(np.minimum(b, end_s)), 4)) for a, b in joined)
