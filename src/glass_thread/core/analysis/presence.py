"""Which of what has a pitch is the singer: not the room ringing on, not another voice heard through headphones.

When a voice stops in a room the level falls at once by what the direct sound is stronger, and what is left keeps its
pitch and fades. Bleed keeps its level while the singer comes and goes, far below what is sung around
it; a soft phrase is soft among soft notes.
"""

from __future__ import annotations

import itertools

import numpy as np
import scipy
from numpy.typing import NDArray

from ..signal.signal_tools import moving_average, runs_between_leaps
from ..signal.types import HOP_S, Contour, Floats
from .hum import Hum

# Where a voice stops in a room: a sudden fall, and then a steady pitch that fades to the end.
NEAR_DB, MEMORY_S = 6.0, 0.3
LEAST_FALL_DB, FALL_S, STOPPED_DB = 5.5, 0.05, 5.0
TAIL_S, STEADY_SEMITONES, NEXT_SOUND_S = 0.07, 0.3, 0.1
SLOPES_DB_PER_S = (-170.0, 10.0)
FEWEST_TAILS, FEWEST_LONG, LONG_TAIL_S, SHARE_OF_ENDS = 3, 2, 0.2, 0.3
# Bleed: what is surely the singer, the rests between, how far below bleed lies, and how full of it rests are.
SURE_DB, UNDER_DB, OVER_BLEED_DB = 13.0, 12.0, 4.0
UNDER_OUTSIDE_DB, OUTSIDE_SEMITONES = 7.0, 3.0  # outside the range of what is surely sung less is asked
RESTS_S = (0.05, 4.0)
FEWEST_RESTS, FILLED = 3, 0.18
# Between two sung notes, too short for a note and beyond both: what shows in the gap of a consonant.
BLIP_S, BLIP_GAP_S, BLIP_UNDER_DB, BLIP_BEYOND_SEMITONES = 0.15, 0.1, 8.0, 4.0
LEAP_SEMITONES = 0.8  # where one source may take over from another
OVER_HUM_DB = 2.5


def singers_own(contour: Contour, level: Floats, hum: Hum) -> Contour:
    """The contour without what is not the singer; `level` in dBFS on the same grid, shape (n,)."""
    rings = ringing(contour, level)
    left = contour.voiced & ~rings & (level > hum.level_db + OVER_HUM_DB)
    midi = np.where(left, contour.midi, np.nan)
    own = left & ~bled_in(midi, level) & ~in_the_gaps(midi, level)
    return Contour(np.where(own, contour.midi, np.nan), np.where(own, contour.confidence, 0.0))


def ringing(contour: Contour, level: Floats) -> NDArray[np.bool_]:
    """Voiced frames in which only the room still sounds; none unless the recording rings again and again."""
    rings = np.zeros(len(level), dtype=bool)
    smooth = moving_average(level, 3)
    parts = [(a, b) for a, b in runs_between_leaps(contour.midi, LEAP_SEMITONES) if (b - a) * HOP_S > TAIL_S]
    found = []
    for a, b in parts:
        faded = a + int(np.argmin(smooth[a:b])) + 1  # before the next sound sets in
        last = faded if (b - faded) * HOP_S < NEXT_SOUND_S else b
        stop = _stop_of_voice(contour.midi[a:last], smooth[a:last], a)
        if stop is not None:
            found.append((stop, b))
    long = sum((end - stop) * HOP_S >= LONG_TAIL_S for stop, end in found)
    if (len(found) < FEWEST_TAILS and long < FEWEST_LONG) or len(found) < SHARE_OF_ENDS * len(parts):
        return rings
    for stop, end in found:
        rings[stop:end] = True
    return rings


def _stop_of_voice(midi: Floats, level: Floats, first: int) -> int | None:
    """The frame at which the voice of a part stops while the room rings on; None when it sings to its end."""
    memory = round(MEMORY_S / HOP_S)
    loud = scipy.ndimage.maximum_filter1d(level, memory, origin=memory // 2 - 1, mode="nearest")
    last = int(np.flatnonzero(level > loud - NEAR_DB)[-1])
    after = last + round(FALL_S / HOP_S)
    tail = level[after:]
    just_before = float(level[max(0, last - round(FALL_S / HOP_S)) : last + 1].max())  # slow fades fall no further
    if (len(level) - last) * HOP_S < TAIL_S or len(tail) < 4 or just_before - tail[0] < LEAST_FALL_DB:
        return None
    time = (np.arange(len(tail)) - (len(tail) - 1) / 2) * HOP_S
    slope = float(time @ tail / (time @ time))
    if not SLOPES_DB_PER_S[0] < slope < SLOPES_DB_PER_S[1] or np.std(midi[after:]) > STEADY_SEMITONES:
        return None
    return first + last + int(np.argmax(level[last:] < just_before - STOPPED_DB))


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
    """Voiced frames, `midi` of shape (n,) not NaN, of another voice; none unless it fills many of the rests."""
    found = np.zeros(len(midi), dtype=bool)
    parts = runs_between_leaps(midi, LEAP_SEMITONES)
    if len(parts) < 2:
        return found
    own = np.array([np.median(level[a:b]) for a, b in parts])
    sure = own > np.percentile(level[np.isfinite(midi)], 90) - SURE_DB
    middles = np.array([np.median(midi[a:b]) for a, b in parts])
    low, high = middles[sure].min() - OUTSIDE_SEMITONES, middles[sure].max() + OUTSIDE_SEMITONES
    under = np.where((middles < low) | (middles > high), UNDER_OUTSIDE_DB, UNDER_DB)
    resting, filled = _in_rests(parts, own, sure, under)
    if len(filled) < FEWEST_RESTS or np.mean(filled) < FILLED:
        return found
    level_of_bleed = float(np.percentile(own[resting], 75))
    resting |= ~sure & (own < level_of_bleed + OVER_BLEED_DB)
    for i in np.flatnonzero(resting):
        a, b = parts[i]
        found[a:b] = True
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
