"""Which of what has a pitch is the singer: not the room ringing on, not another voice heard through headphones.

When a voice stops in a room the level falls at once by what the direct sound is stronger, and what is left keeps its
pitch and fades. Bleed keeps its level while the singer comes and goes, far below what is sung around
it; a soft phrase is soft among soft notes.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from ..signal.signal_tools import moving_average, runs_between_leaps
from ..signal.types import HOP_S, Contour, Floats
from .hum import Hum

# Where a voice stops in a room: a sudden fall, and then a steady pitch that fades to the end.
LEAST_FALL_DB, STOPPED_DB, FALL_S, BEFORE_S = 5.5, 5.0, 0.05, 0.05
TAIL_S, STEADY_SEMITONES, LONG_WANDERS, NEXT_SOUND_S = 0.07, 0.3, 0.5, 0.1
DIP_DB = 10.0  # of the level between a tail and the next sound
AFTER_S, OVER_TAIL_DB = 0.5, 5.0  # what is left of a tail behind another sound
SLOPES_DB_PER_S, LONG_SLOPE_DB_PER_S = (-170.0, 10.0), -12.0  # a soft note after a loud one does not fade
FEWEST_TAILS, FEWEST_LONG, LONG_TAIL_S, SHARE_OF_ENDS = 3, 2, 0.2, 0.3
# Bleed: what is surely the singer, the rests between, how far below bleed lies, and how full of it rests are.
SURE_DB, UNDER_DB, OVER_BLEED_DB = 13.0, 12.0, 4.0
UNDER_OUTSIDE_DB, OUTSIDE_SEMITONES = 7.0, 3.0  # outside the range of what is surely sung less is asked
RESTS_S = (0.05, 4.0)
FEWEST_RESTS, FILLED = 3, 0.18
TOUCH_S, EDGE_S, LEFT_S = 0.03, 0.15, 0.15
UPBEAT_DB = 20.0  # before a loud note there may be a soft syllable
# Between two sung notes, too short for a note and beyond both: what shows in the gap of a consonant.
BLIP_S, BLIP_GAP_S, BLIP_UNDER_DB, BLIP_BEYOND_SEMITONES = 0.15, 0.1, 8.0, 4.0
LEAP_SEMITONES = 0.8  # where one source may take over from another
OVER_HUM_DB = 2.5


def singers_own(contour: Contour, level: Floats, rings: NDArray[np.bool_], hum: Hum) -> Contour:
    """The contour without what is not the singer; `level` in dBFS on the same grid, shape (n,), and the frames in which
    only the room rings."""
    left = contour.voiced & ~rings & (level > hum.level_db + OVER_HUM_DB)
    midi = np.where(left, contour.midi, np.nan)
    own = left & ~bled_in(midi, level) & ~in_the_gaps(midi, level)
    return Contour(np.where(own, contour.midi, np.nan), np.where(own, contour.confidence, 0.0))


@dataclass(frozen=True)
class _Tail:
    """Frames from where a voice stops to where it is no longer heard, and the line along which the room fades: its
    level in dB at `stop` and by how much it changes each frame."""

    stop: int
    end: int
    level: float
    slope: float


def ringing(contour: Contour, voice: Floats) -> NDArray[np.bool_]:
    """Voiced frames in which only the room still sounds; none unless the recording rings again and again.

    `voice` is the level where voices are, in dBFS on the same grid, shape (n,).
    """
    rings = np.zeros(len(voice), dtype=bool)
    smooth = moving_average(voice, 5)
    every = list(_between_dips(runs_between_leaps(contour.midi, LEAP_SEMITONES), smooth))
    parts = [(a, b) for a, b in every if (b - a) * HOP_S > TAIL_S]
    sung_on = {a for (_, end), (a, _) in itertools.pairwise(every) if a - end <= 2}
    found, ends = [], 0
    for a, b in parts:
        faded = a + int(np.argmin(moving_average(voice[a:b], 5))) + 1  # before the next sound sets in
        last = faded if (b - faded) * HOP_S < NEXT_SOUND_S else b
        tail = _tail_of(contour.midi[a:last], smooth[a:last], a)
        if tail is not None:
            found.append(_Tail(tail.stop, b, tail.level, tail.slope))
        ends += tail is not None or not any(b <= on <= b + 2 for on in sung_on)
    long = sum((tail.end - tail.stop) * HOP_S >= LONG_TAIL_S for tail in found)
    if (len(found) < FEWEST_TAILS and long < FEWEST_LONG) or len(found) < SHARE_OF_ENDS * ends:
        return rings
    for tail in found:
        rings[tail.stop : tail.end] = True
        for a, b in every:
            if tail.end <= a < tail.end + round(AFTER_S / HOP_S) and _rings_on(contour.midi, smooth, tail, a, b):
                rings[a:b] = True
    return rings


def _between_dips(parts: list[tuple[int, int]], level: Floats) -> Iterator[tuple[int, int]]:
    """The parts, cut where the level goes down deeply and comes up again."""
    for a, b in parts:
        dips = a + scipy.signal.find_peaks(-level[a:b], prominence=DIP_DB)[0]
        yield from itertools.pairwise([a, *dips[dips < b - round(NEXT_SOUND_S / HOP_S)], b])


def _rings_on(midi: Floats, level: Floats, tail: _Tail, a: int, b: int) -> bool:
    """Whether frames [a, b) are what a tail left behind, after a sound that covered it for a moment."""
    near = abs(np.median(midi[a:b]) - np.median(midi[tail.stop : tail.end])) < STEADY_SEMITONES
    line = tail.level + tail.slope * (np.arange(a, b) - tail.stop)
    return bool(near and np.median(level[a:b] - line) < OVER_TAIL_DB)


def _tail_of(midi: Floats, level: Floats, first: int) -> _Tail | None:
    """What the room adds to a part, `midi` and `level` of shape (n,) from frame `first` on; None when it is sung to its
    end.

    The voice stops where the level falls most for good: below what comes before, all that follows.
    """
    fall, before = round(FALL_S / HOP_S), round(BEFORE_S / HOP_S)
    if len(level) < before + fall + round(TAIL_S / HOP_S):
        return None
    most_after = np.maximum.accumulate(level[::-1])[::-1]
    places = np.arange(before, len(level) - fall - round(TAIL_S / HOP_S) + 1)
    come_before = np.lib.stride_tricks.sliding_window_view(level, before)[: len(places)]
    drops = np.median(come_before, axis=1) - most_after[places + fall]
    best = int(np.argmax(drops))
    stop = int(places[best])
    tail = level[stop + fall :]
    time = np.arange(len(tail)) - (len(tail) - 1) / 2
    slope = float(time @ tail / (time @ time))
    long = len(tail) * HOP_S >= LONG_TAIL_S
    fades = SLOPES_DB_PER_S[0] < slope / HOP_S < (LONG_SLOPE_DB_PER_S if long else SLOPES_DB_PER_S[1])
    steady = np.std(midi[stop + fall :]) <= (LONG_WANDERS if long else STEADY_SEMITONES)
    kept = abs(np.median(midi[stop + fall :]) - np.median(midi[stop - before : stop])) < LONG_WANDERS
    if drops[best] < LEAST_FALL_DB or not (fades and steady and kept):
        return None
    line = float(tail.mean()) - slope * (fall + (len(tail) - 1) / 2)
    stop += int(np.argmax(level[stop:] < np.median(level[stop - before : stop]) - STOPPED_DB))
    return _Tail(first + stop, first + len(level), line, slope)


def in_the_gaps(midi: Floats, level: Floats) -> NDArray[np.bool_]:
    """Voiced frames of the shortest parts between two notes that no voice would sing on its way from one to the other:
    far softer than both, and far above the higher or below the lower one."""
    found = np.zeros(len(midi), dtype=bool)
    parts = runs_between_leaps(midi, LEAP_SEMITONES)
    most, gap = BLIP_S / HOP_S, BLIP_GAP_S / HOP_S
    for (a, b), (c, d), (e, f) in zip(parts, parts[1:], parts[2:], strict=False):
        if d - c > most or c - b > gap or e - d > gap or min(b - a, f - e) < d - c:
            continue
        low, high = sorted((float(np.median(midi[a:b])), float(np.median(midi[e:f]))))
        under = min(np.median(level[a:b]), np.median(level[e:f])) - np.median(level[c:d])
        inside = low - BLIP_BEYOND_SEMITONES < np.median(midi[c:d]) < high + BLIP_BEYOND_SEMITONES
        if under > BLIP_UNDER_DB and not inside:
            found[c:d] = True
    return found


def bled_in(midi: Floats, level: Floats) -> NDArray[np.bool_]:
    """Voiced frames, `midi` of shape (n,) not NaN, of another voice: what fills many of the rests, and what a sung note
    leaps down to."""
    found = np.zeros(len(midi), dtype=bool)
    parts = runs_between_leaps(midi, LEAP_SEMITONES)
    if len(parts) < 2:
        return found
    own = np.array([np.median(level[a:b]) for a, b in parts])
    sure = own > np.percentile(level[np.isfinite(midi)], 90) - SURE_DB
    for i in np.flatnonzero(_in_many_rests(midi, parts, own, sure) | _left_by_the_voice(level, parts, own, sure)):
        a, b = parts[i]
        found[a:b] = True
    return found


def _in_many_rests(
    midi: Floats, parts: list[tuple[int, int]], own: Floats, sure: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """Parts of another voice; none unless it fills many of the rests."""
    middles = np.array([np.median(midi[a:b]) for a, b in parts])
    low, high = middles[sure].min() - OUTSIDE_SEMITONES, middles[sure].max() + OUTSIDE_SEMITONES
    under = np.where((middles < low) | (middles > high), UNDER_OUTSIDE_DB, UNDER_DB)
    resting, filled = _in_rests(parts, own, sure, under)
    if len(filled) < FEWEST_RESTS or np.mean(filled) < FILLED:
        return np.zeros(len(parts), dtype=bool)
    level_of_bleed = float(np.percentile(own[resting], 75))
    return resting | (~sure & (own < level_of_bleed + OVER_BLEED_DB))


def _left_by_the_voice(
    level: Floats, parts: list[tuple[int, int]], own: Floats, sure: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """Parts that begin where a sure note ends, or end where one begins, at another pitch and far below: no voice falls
    so far and leaps at once.  And what is as soft in the same rest."""
    found = np.zeros(len(parts), dtype=bool)
    edge, touch = round(EDGE_S / HOP_S), round(TOUCH_S / HOP_S)
    for i in np.flatnonzero(~sure):
        a, b = parts[i]
        if (b - a) * HOP_S < LEFT_S:
            continue
        before = i > 0 and sure[i - 1] and a - parts[i - 1][1] <= touch
        after = i + 1 < len(parts) and sure[i + 1] and parts[i + 1][0] - b <= touch
        fell = np.median(level[a - edge : a]) - own[i] if before else 0.0
        rose = np.median(level[b : b + edge]) - own[i] if after else 0.0
        found[i] = fell > UNDER_DB or rose > UPBEAT_DB
    for i in np.flatnonzero(found):
        for step in (-1, 1):
            k = i + step
            while 0 <= k < len(parts) and not sure[k]:
                found[k] |= own[k] < own[i] + OVER_BLEED_DB
                k += step
    return found


def _in_rests(
    parts: list[tuple[int, int]], own: Floats, sure: NDArray[np.bool_], under_db: Floats
) -> tuple[NDArray[np.bool_], Floats]:
    """Parts in a short rest between two sure ones and `under_db` below both, and how much of each rest they fill."""
    inside = np.zeros(len(parts), dtype=bool)
    shares = []
    for i, j in itertools.pairwise(np.flatnonzero(sure)):
        rest = parts[j][0] - parts[i][1]
        if not RESTS_S[0] <= rest * HOP_S <= RESTS_S[1]:
            continue
        under = [k for k in range(i + 1, j) if min(own[i], own[j]) - own[k] > under_db[k]]
        inside[under] = True
        shares.append(sum(parts[k][1] - parts[k][0] for k in under) / rest)
    return inside, np.array(shares)
