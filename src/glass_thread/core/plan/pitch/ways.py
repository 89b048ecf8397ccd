"""Ways from one note into the next, where both are sung through: as they were sung, or as a glide that is asked for."""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np

from ...analysis.notes.note_parts import FINE_FROM_HZ
from ...document.gestures import Gesture
from ...signal.order import median_of
from ...signal.signal_tools import fill_gaps, smoothstep
from ...signal.smoothing import low_pass
from ...signal.types import HOP_S, Floats

FROM_SHARE, TO_SHARE = 0.15, 0.85  # of an interval between which a glide is timed
_LEAST_STEP = 0.3  # semitones under which two notes have no way between them that can be told
_SHORTEST, _USUAL = 6, 7  # frames on either side of the middle of a way, at least, and where none can be told
_BODY_S = 0.4  # of a note beside a join that tells its pitch there
_ARRIVED = 0.04  # share of the interval within which a way has begun or arrived
_SOFT = 4  # frames in which the fine movement leaves the way and comes back


class Way(NamedTuple):
    """Frames from where the first note is left to where the second is reached, and the one in the middle."""

    low: int
    middle: int
    high: int


def sung_way(smooth: Floats, border: int) -> Way:
    """The way that was sung across frame `border` of a smoothed contour over two notes, shape (n,)."""
    n = len(smooth)
    first, last = border // 2, border + (n - border + 1) // 2
    left, right = _level(smooth[:border][::-1]), _level(smooth[border:])
    if abs(right - left) < _LEAST_STEP:
        return _around(border, _USUAL, first, last)
    along = (smooth - left) / (right - left)
    crossed = np.flatnonzero((along[first : last - 1] < 0.5) & (along[first + 1 : last] >= 0.5))
    if len(crossed) == 0:
        return _around(border, _USUAL, first, last)
    middle = first + 1 + int(crossed[np.argmin(np.abs(first + 1 + crossed - border))])
    low, high = middle - 1, middle
    while low > first and along[low] > _ARRIVED and along[low - 1] < along[low]:
        low -= 1
    while high < last - 1 and along[high] < 1.0 - _ARRIVED and along[high + 1] > along[high]:
        high += 1
    least = _around(middle, _SHORTEST, first, last)
    return Way(min(low, least.low), middle, max(high + 1, least.high))


def _around(middle: int, reach: int, first: int, last: int) -> Way:
    return Way(max(first, middle - reach), middle, min(last, middle + reach))


def _level(away: Floats) -> float:
    """The pitch of a note beside a join, of its contour from the join away."""
    near = away[: max(1, int(_BODY_S / HOP_S))]
    return median_of(near[len(near) // 4 :])


def join_notes(total: Floats, midi: Floats, left: tuple[int, int], right: tuple[int, int], gesture: Gesture) -> None:
    """Write the correction along the way between two notes into `total`, shape (n_frames,), in place.

    Parameters
    ----------
    total : ndarray
        In semitones; the corrections of both notes themselves are in it.
    midi : ndarray, shape (n_frames,)
        The sung pitch.
    left, right : tuple of int
        Frames [a, b) of the notes.
    gesture : Gesture
        Of the second note.
    """
    a, b = left[0], right[1]
    pitch = fill_gaps(midi[a:b])
    smooth = low_pass(pitch, FINE_FROM_HZ)
    way = sung_way(smooth, right[0] - a)
    part = total[a:b]
    border = right[0] - a
    gap = slice(left[1] - a, border)
    part[gap] = part[gap.start - 1]
    # where a note is left late, or the next is reached early, the border does not say whose pitch is heard
    part[border : way.low + 1] = part[border - 1]
    part[way.high - 1 : border] = part[border]
    if gesture.glides:
        _glide(part, pitch, way, border, gesture)
    else:
        _pass_over(part, way, border)


def _pass_over(part: Floats, way: Way, border: int) -> None:
    """Let the correction pass from that of the first note to that of the second along the way, smoothly (C1)."""
    at = np.arange(way.low, way.high)
    before = np.where(at < border, part[at], part[border - 1])
    after = np.where(at >= border, part[at], part[border])
    part[at] = before + smoothstep((at - way.low + 0.5) / len(at)) * (after - before)


def _glide(part: Floats, pitch: Floats, sung: Way, border: int, gesture: Gesture) -> None:
    """Put the way asked for in the place of the one that was sung, between the two tuned bodies."""
    way = Way(min(sung.low, border - 1), sung.middle, max(sung.high, border + 1))
    begin, end = _glide_span(way, border, len(part), gesture)
    at = np.arange(min(begin, way.low), max(end, way.high))
    own = pitch + part
    # each body smoothed by itself: over the border the steep way would lean on both
    left, right = low_pass(own[: way.low + 1], FINE_FROM_HZ), low_pass(own[way.high - 1 :], FINE_FROM_HZ)
    first = left[np.minimum(at, way.low)]
    second = right[np.maximum(at - (way.high - 1), 0)]
    tuned = first + glide_shape((at - begin + 0.5) / max(end - begin, 1), gesture.glide_bend) * (second - first)
    fine = own[at] - np.where(at < way.middle, first, second)
    outside = 1.0 - smoothstep((at - way.low + 1.0) / _SOFT) * smoothstep((way.high - at) / _SOFT)
    part[at] = tuned + outside * fine - pitch[at]


def _glide_span(way: Way, border: int, n: int, gesture: Gesture) -> tuple[int, int]:
    """Frames over which a glide goes from one body to the other, never beyond the middle of a note."""
    assert gesture.glide_ms is not None
    frames = gesture.glide_ms / 1000.0 / HOP_S / _timed_share(gesture.glide_bend)
    begin, end = way.middle - frames / 2.0, way.middle + frames / 2.0
    first, last = min(border // 2, way.low), max(border + (n - border) // 2, way.high)
    return max(first, round(begin)), min(last, max(round(end), round(begin) + 1))


def glide_shape(along: Floats, bend: float) -> Floats:
    """How far a glide has come, 0 to 1, at a share `along` of its time; `bend` −1 (early) to 1 (late)."""
    return smoothstep(np.clip(along, 0.0, 1.0) ** (2.0 ** (0.9 * bend)))


@lru_cache(maxsize=64)
def _timed_share(bend: float) -> float:
    """The share of a glide's time that 15 to 85 % of its way take."""
    along = np.linspace(0.0, 1.0, 2001)
    begin, end = np.interp((FROM_SHARE, TO_SHARE), glide_shape(along, bend), along)
    return float(end - begin)
