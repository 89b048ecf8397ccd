"""Where a version or comp sounds other than the recording does, in seconds of the track."""

from __future__ import annotations

import numpy as np

from ...core.plan.composing import LONGEST_S, REACH_S
from ...core.plan.plan import changed_spans, untouched_plan
from ...core.signal.signal_tools import merged_ranges
from ..session.desk import Desk, Standing
from ..session.sounding import parts_of
from .print_layout import Layout

_MARGIN_S = 0.05  # what a rendered run reaches beyond its frames: splices and a displacement of half a period


def edited_spans(desk: Desk, standing: Standing, layout: Layout | None = None) -> tuple[tuple[float, float], ...]:
    """Stretches in which samples may differ, in order and apart; with what a layout silences and fades."""
    untouched = untouched_plan(standing.analysis)
    found = _faded(layout, standing.track.sample_rate) if layout else []
    reach = REACH_S + LONGEST_S
    for start_s, end_s, part, _version_id in parts_of(desk, standing):
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
    return tuple((round(a, 4), round(float(np.minimum(b, end_s)), 4)) for a, b in merged_ranges(spans))
