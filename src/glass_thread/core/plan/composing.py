"""One plan from several of the same take, where one passes into the next.

Where two plans have the same moment of the recording at the same place, nothing has to be mixed: the sound is rendered
once, from a correction that passes over from one to the other.  So no beat and no flam can be heard at such a border,
and in silence and air the samples are those that both have.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..document.flags import ABRUPT_CENTS, STEEPEST
from ..document.items.borrows import Borrow, over
from ..document.time.give_way import Anchor, Giving
from ..document.time.stretches import Stretch
from ..signal.signal_tools import smoothstep
from ..signal.types import HOP_S, Floats
from ..signal.units import gain_to_db
from .level_plan import SILENT_DB, level_gain
from .plan import Plan

FADE_S = 0.015  # common practice, no source
REACH_S = 0.12  # as far as a border is moved to where it is not heard
LONGEST_S = 0.12  # over which the pitch passes from one version to the other
SAME_S = 1e-4
_FURTHER = 0.2  # what the whole reach costs, in semitones of difference
_DB_A_SEMITONE = 6.0
JUMP_CENTS = 150.0  # of difference over which a border inside a note is heard


@dataclass(frozen=True)
class Blend:
    """Where one plan passes into the next: around frame `frame`, over `length_s`, across `cents` of pitch; `voiced`
    inside a sung tone."""

    frame: int
    length_s: float
    cents: float
    voiced: bool

    @property
    def clean(self) -> bool:
        """True when nothing of it is heard."""
        return not self.voiced or self.cents <= JUMP_CENTS


def agree(left: Plan, right: Plan, at_s: float) -> bool:
    """True when two plans have the same moment of the recording at `at_s` of the track, and stretch nothing there."""
    here, there = (float(plan.times.track_to_source(at_s)) for plan in (left, right))
    if abs(here - there) >= SAME_S:
        return False
    apart = set(left.borrows) ^ set(right.borrows)
    if over(list(apart), here - REACH_S, here + REACH_S):
        return False
    return not any(plan.stretches_in(here - REACH_S, here + REACH_S) for plan in (left, right)) or left is right


def place_blend(left: Plan, right: Plan, asked: int, reach: int) -> Blend:
    """The frame within `reach` of frame `asked` at which two plans differ least: in silence, or without strain."""
    low, high = max(0, asked - reach), min(len(left.correction), asked + reach + 1)
    if low >= high:
        return Blend(min(asked, len(left.correction)), FADE_S, 0.0, voiced=False)
    part = slice(low, high)
    voiced = np.isfinite(left.contour.midi[part]) | np.isfinite(right.contour.midi[part])
    apart = np.abs(_tuned(left, part) - _tuned(right, part)) + np.abs(left.formant[part] - right.formant[part])
    level = np.abs(left.level_db[part] - right.level_db[part]) / _DB_A_SEMITONE
    far = np.abs(np.arange(low, high) - asked) / max(reach, 1)
    best = int(np.argmin(np.where(voiced, apart, 0.0) + level + _FURTHER * far))
    cents = 100.0 * float(apart[best]) if voiced[best] else 0.0
    needed = HOP_S * STEEPEST * cents / ABRUPT_CENTS
    length_s = max(2.0 * FADE_S if voiced[best] else FADE_S, needed)
    return Blend(low + best, min(length_s, LONGEST_S), cents, bool(voiced[best]))


def _tuned(plan: Plan, part: slice) -> Floats:
    return np.nan_to_num(plan.contour.midi[part]) + plan.correction[part]


def composed(plans: Sequence[Plan], blends: Sequence[Blend]) -> Plan:
    """The plan that follows each of `plans` in turn, with `blends` between them."""
    first = plans[0]
    if len(plans) == 1:
        return first
    arrays = [values.copy() for values in _arrays(first)]
    midi = first.contour.midi.copy()
    ends = [*(blend.frame for blend in blends[1:]), len(midi)]
    for left, right, blend, end in zip(plans, plans[1:], blends, ends, strict=False):
        midi[blend.frame : end] = right.contour.midi[blend.frame : end]
        half = max(1, round(blend.length_s / HOP_S / 2))
        low, high = max(0, blend.frame - half), min(len(midi), blend.frame + half)
        weight = smoothstep((np.arange(low, high) - low + 0.5) / max(high - low, 1))
        for values, old, new in zip(arrays, _arrays(left), _arrays(right), strict=True):
            values[blend.frame : end] = new[blend.frame : end]
            values[low:high] = old[low:high] + weight * (new[low:high] - old[low:high])
        gain = (1.0 - weight) * level_gain(left.level_db[low:high]) + weight * level_gain(right.level_db[low:high])
        same = left.level_db[low:high] == right.level_db[low:high]
        arrays[2][low:high] = np.where(same, left.level_db[low:high], np.maximum(gain_to_db(gain), SILENT_DB))
    contour = replace(first.contour, midi=midi)
    correction, formant, level, glaze = arrays
    silent = np.isnan(midi)
    correction[silent] = glaze[silent] = 0.0
    return Plan(contour, correction, formant, level, glaze, _giving(plans, blends), _borrows(plans, blends))


def _arrays(plan: Plan) -> tuple[Floats, Floats, Floats, Floats]:
    return plan.correction, plan.formant, plan.level_db, plan.glaze


def _borrows(plans: Sequence[Plan], blends: Sequence[Blend]) -> tuple[Borrow, ...]:
    """What is borrowed, of each plan where it sounds."""
    edges = [-np.inf, *(blend.frame * HOP_S for blend in blends), np.inf]
    sounding = zip(plans, edges, edges[1:], strict=False)
    found = [one for plan, a, b in sounding for one in plan.borrows if a <= (one.start_s + one.end_s) / 2 < b]
    return tuple(dict.fromkeys(found))


def _giving(plans: Sequence[Plan], blends: Sequence[Blend]) -> Giving:
    """What gives way, of each plan where it sounds."""
    if not any(plan.stretches for plan in plans):
        return plans[0].giving
    stretches: list[Stretch] = []
    edges = [-np.inf, *(blend.frame * HOP_S for blend in blends), np.inf]
    for plan, start_s, end_s in zip(plans, edges, edges[1:], strict=False):
        stretches += [one for one in plan.stretches if start_s <= (one.start_s + one.end_s) / 2 < end_s]
    ends = Anchor(0.0, 0.0), Anchor(HOP_S * len(plans[0].correction), HOP_S * len(plans[0].correction))
    return Giving({ends: (tuple(stretches), 0.0)})
