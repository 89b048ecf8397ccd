"""How far notes can be moved before too little gives way."""

from __future__ import annotations

from dataclasses import replace

from ...core.document.content import apply_to_content
from ...core.document.operations.on_time import ShiftEdge, Slip
from ...core.document.operations.registry import Scene
from ...core.document.time.give_way import Giving, give_way, squeezed
from ..session.desk import Desk, Standing

Moving = Slip | ShiftEdge
FURTHEST_MS, EXACT_MS = 4000.0, 1.0


def time_room(desk: Desk, standing: Standing, asked: Moving) -> tuple[float, float]:
    """The least and the most ms by which an operation can move what it names, looked for up to four seconds."""
    known = desk.plan(standing).giving
    return _furthest(standing, asked, known, -1.0), _furthest(standing, asked, known, 1.0)


def _furthest(standing: Standing, asked: Moving, known: Giving, sign: float) -> float:
    fine, bad = 0.0, FURTHEST_MS
    if _fits(standing, replace(asked, by_ms=sign * bad), known):
        return sign * bad
    while bad - fine > EXACT_MS:
        middle = (fine + bad) / 2.0
        if _fits(standing, replace(asked, by_ms=sign * middle), known):
            fine = middle
        else:
            bad = middle
    return sign * fine


def _fits(standing: Standing, asked: Moving, known: Giving) -> bool:
    change = asked.change(Scene(standing.content, standing.keys, standing.analysis))
    spans = [state.span_s for pair in change.values() for state in pair if state is not None]
    after = give_way(standing.analysis, apply_to_content(standing.content, change), known, spans)
    return squeezed(known, after) is None
