"""The sound of a track at a step: of one plan, or of a comp of several."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import NamedTuple, Protocol

import numpy as np

from ...core.document.items.borrows import Law
from ...core.document.items.comps import Choices, spans_of
from ...core.plan.composing import FADE_S, REACH_S, Blend, agree, composed, place_blend
from ...core.plan.plan import Plan
from ...core.signal.types import HOP_S, Floats
from ...core.synthesis.joins import Join, joined, place_join
from .recordings import CachedRecording
from .sound import PRINT_BLOCK_S, Block, Renderer, track_length

_LED_S = 0.002  # time maps that differ by the same amount at both ends of a choice, within this


class Take(Protocol):
    """Samples of a track at a step."""

    @property
    def length(self) -> int:
        """How many."""

    def span(self, begin: int, end: int) -> Floats:
        """Samples [begin, end), shape (channels, end - begin)."""

    def blocks(self, first: int = 0, last: int | None = None) -> Iterator[Block]:
        """The same in parts, with what they were made from."""


@dataclass(frozen=True)
class PlanTake:
    """The sound of one plan over a recording."""

    renderer: Renderer
    source: CachedRecording
    plan: Plan

    @property
    def length(self) -> int:
        """Samples after all edits of time."""
        return track_length(self.source, self.plan)

    def span(self, begin: int, end: int) -> Floats:
        """Samples [begin, end), shape (channels, end - begin)."""
        return self.renderer.span(self.source, self.plan, begin, end)

    def blocks(self, first: int = 0, last: int | None = None) -> Iterator[Block]:
        """Ten seconds after ten seconds."""
        return self.renderer.blocks(self.source, self.plan, first, last)


class Piece(NamedTuple):
    """Track samples [begin, end) of a comp: those of a plan, `shift` samples later than it has them; `choice_id` names
    the first choice in it."""

    begin: int
    end: int
    plan: Plan
    shift: int
    choice_id: str


class Border(NamedTuple):
    """Where a choice passes into the next, in samples of the track, as asked and as it is; over how many samples and by
    which law; cents and seconds by which the two differ there; and whether nothing of it is heard."""

    choice_id: str
    asked: int
    at: int
    length: int
    law: Law
    cents: float
    apart_s: float
    clean: bool


class CompTake:
    """The sound of choices among several plans over one recording; what is rendered depends on nothing but them.

    As long as plans agree in time they are one plan, which is rendered once; where they do not, two sounds are joined.
    """

    def __init__(
        self, renderer: Renderer, source: CachedRecording, choices: Choices, plans: Mapping[str, Plan]
    ) -> None:
        self._source, self._renderer = source, renderer
        self._rate = source.sample_rate
        self._blended: dict[str, Border] = {}
        self._pieces = self._cut(choices, plans)
        self._joins: dict[int, Join] = {}

    @property
    def length(self) -> int:
        """Samples of the whole."""
        last = self._pieces[-1]
        return track_length(self._source, last.plan) + last.shift

    @property
    def nbytes(self) -> int:
        """What its plans hold in memory."""
        return sum(5 * piece.plan.correction.nbytes for piece in self._pieces) + 2000

    def borders(self) -> list[Border]:
        """How each choice passes into the next, in order of time."""
        found = dict(self._blended)
        for i in range(1, len(self._pieces)):
            piece, join = self._pieces[i], self._join(i)
            moments = [self._moment(one, join.at) for one in self._pieces[i - 1 : i + 1]]
            apart_s = abs(moments[0] - moments[1])
            border = Border(piece.choice_id, piece.begin, join.at, join.length, join.law, 0.0, apart_s, join.clean)
            found[piece.choice_id] = border
        return sorted(found.values(), key=lambda border: border.asked)

    def _cut(self, choices: Choices, plans: Mapping[str, Plan]) -> list[Piece]:
        """Choices that agree in time as one plan each, one after the other."""
        spans = spans_of(choices)
        lead = plans[spans[0][2].step_id]
        found: list[Piece] = []
        begin_s, shift_s, first = spans[0][0], 0.0, spans[0][2].id
        here, blends = [lead], list[Blend]()
        for i, (start_s, end_s, choice) in enumerate(spans[1:], 1):
            plan = plans[choice.step_id]
            if agree(here[-1], plan, start_s - shift_s):
                room = min(start_s - spans[i - 1][0], end_s - start_s) / 2
                blend, border = self._blend(choice.id, (here[-1], plan), start_s, shift_s, room)
                if blend.frame > (blends[-1].frame if blends else 0):
                    here.append(plan)
                    blends.append(blend)
                    self._blended[choice.id] = border
                    continue
            found.append(self._piece(first, (begin_s, start_s), composed(here, blends), shift_s))
            begin_s, here, blends, first = start_s, [plan], [], choice.id
            shift_s = _led(lead, plan, start_s, min(end_s, self._source.frames / self._rate))
        found.append(self._piece(first, (begin_s, None), composed(here, blends), shift_s))
        return found

    def _piece(self, choice_id: str, span_s: tuple[float, float | None], plan: Plan, shift_s: float) -> Piece:
        (begin_s, end_s), shift = span_s, round(shift_s * self._rate)
        end = track_length(self._source, plan) + shift if end_s is None else round(end_s * self._rate)
        begin = round(begin_s * self._rate)
        return Piece(begin, max(begin, end), plan, shift, choice_id)

    def _blend(
        self, choice_id: str, sides: tuple[Plan, Plan], asked_s: float, shift_s: float, room_s: float
    ) -> tuple[Blend, Border]:
        left, right = sides
        frame = round(float(left.times.track_to_source(asked_s - shift_s)) / HOP_S)
        reach = max(0, round(min(REACH_S, room_s - FADE_S) / HOP_S))
        blend = place_blend(left, right, frame, reach)
        asked = round(asked_s * self._rate)
        at = round((float(left.times.source_to_track(blend.frame * HOP_S)) + shift_s) * self._rate)
        length = round(blend.length_s * self._rate)
        return blend, Border(choice_id, asked, at, length, "equal gain", blend.cents, 0.0, blend.clean)

    def _join(self, i: int) -> Join:
        """How piece `i` follows the one before it."""
        known = self._joins.get(i)
        if known is not None:
            return known
        before, after = self._pieces[i - 1], self._pieces[i]
        room = min(before.end - before.begin, after.end - after.begin) // 2 - round(FADE_S * self._rate)
        reach = max(0, min(round(REACH_S * self._rate), room))
        margin = reach + round(2 * FADE_S * self._rate)
        low = max(0, after.begin - margin)
        sides = self._padded(before, low, after.begin + margin), self._padded(after, low, after.begin + margin)
        join = place_join(*sides, sample_rate=self._rate, asked=after.begin - low, reach=reach)
        self._joins[i] = replace(join, at=join.at + low)
        return self._joins[i]

    def _moment(self, piece: Piece, at: int) -> float:
        """Seconds of the recording that a piece has at a track sample."""
        return float(piece.plan.times.track_to_source((at - piece.shift) / self._rate))

    def _padded(self, piece: Piece, low: int, high: int) -> Floats:
        """Samples [low, high) of a piece's plan, silence beyond its ends."""
        a, b = low - piece.shift, high - piece.shift
        inner = self._renderer.span(self._source, piece.plan, max(a, 0), max(b, 0))
        before = min(max(0, -a), high - low)
        return np.pad(inner, ((0, 0), (before, high - low - before - inner.shape[1])))

    def span(self, begin: int, end: int) -> Floats:
        """Samples [begin, end), shape (channels, end - begin); the same as that slice of the whole."""
        begin, end = max(0, begin), max(0, min(end, self.length))
        if end <= begin:
            return self._source.read(0, 0)
        return self._mixed(begin, end, self._padded)

    def _mixed(self, begin: int, end: int, sound: _Sounding, *, fades: bool = True) -> Floats:
        """Track samples [begin, end) of what sounds; without `fades`, what is mixed of two pieces is NaN."""
        out = np.zeros((self._source.channels, end - begin))
        margin = round((REACH_S + FADE_S) * self._rate)
        for i, piece in enumerate(self._pieces):
            if piece.end + margin <= begin or piece.begin - margin >= end:
                continue
            join = self._join(i) if i else Join(0, 0, "none", 0.0)
            until = self._join(i + 1).begin if i + 1 < len(self._pieces) else end
            low, high = max(begin, join.end), min(end, until)
            if low < high:
                out[:, low - begin : high - begin] = sound(piece, low, high)
            low, high = max(begin, join.begin), min(end, join.end)
            if i and low < high:
                both = sound(self._pieces[i - 1], low, high), sound(piece, low, high)
                mixed = joined(*both, law=join.law, first=low - join.begin, length=join.length)
                out[:, low - begin : high - begin] = mixed if fades else np.nan
        return out

    def blocks(self, first: int = 0, last: int | None = None) -> Iterator[Block]:
        """Samples [first, last) of the track, ten seconds after ten seconds."""
        last = self.length if last is None else min(last, self.length)
        step = PRINT_BLOCK_S * self._rate
        for begin in range(first, last, step):
            end = min(begin + step, last)
            here = self._source.read(min(begin, self._source.frames), min(end, self._source.frames))
            sung = np.pad(here, ((0, 0), (0, end - begin - here.shape[1])))
            moved = self._mixed(begin, end, self._placed, fades=False)
            yield Block(begin, sung, moved, self.span(begin, end))

    def _placed(self, piece: Piece, low: int, high: int) -> Floats:
        """What a piece has over track samples [low, high) as sung, NaN where that is no sample of the recording."""
        a, b = low - piece.shift, high - piece.shift
        moved = self._renderer.as_recorded(self._source, piece.plan, max(a, 0), max(b, 0))
        before = min(max(0, -a), high - low)
        return np.pad(moved, ((0, 0), (before, high - low - before - moved.shape[1])))


class _Sounding(Protocol):
    def __call__(self, piece: Piece, low: int, high: int) -> Floats: ...


def _led(lead: Plan, plan: Plan, start_s: float, end_s: float) -> float:
    """Seconds by which a stretch of one plan is moved so that it lies where another one has it.

    None when the two agree at its ends, or when they differ there by different amounts: then it keeps its own timing.
    """
    if plan.times == lead.times:
        return 0.0
    ends = np.array([max(start_s, 0.0), end_s])
    apart = ends - plan.times.source_to_track(lead.times.track_to_source(ends))
    if abs(apart[0] - apart[1]) > _LED_S:
        return 0.0
    return float(apart.mean()) if abs(apart.mean()) > 1e-6 else 0.0
