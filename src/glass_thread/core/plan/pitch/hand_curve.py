"""Pitch drawn by hand over a stretch: it replaces the computed contour there, with short blends at both ends."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...document.gestures import Stroke
from ...signal.signal_tools import fill_gaps, moving_average, runs, smoothstep
from ...signal.types import HOP_S, Floats

_BLEND_S = 0.03
_SLOW_S = 0.12  # what moves slower than this is replaced when the fine movement is kept
_SLOW_FRAMES = int(_SLOW_S / HOP_S) | 1


def follow_hand(correction: Floats, midi: Floats, strokes: Sequence[tuple[Stroke, tuple[int, int]]]) -> None:
    """Put the voiced frames under `strokes` onto them; `correction`, shape (n_frames,) in semitones, in place.

    `midi` is the sung pitch on the same frames.  With each stroke come the frames of its note, which it never leaves;
    strokes that touch have no blend between them.
    """
    drawn = [(stroke, *_frames(stroke, within, len(correction))) for stroke, within in strokes]
    drawn = [(stroke, a, b) for stroke, a, b in drawn if a < b]
    if not drawn:
        return
    low, high = min(a for _, a, _ in drawn), max(b for _, _, b in drawn)
    wanted = np.full(high - low, np.nan)
    for stroke, a, b in drawn:
        times, pitches = np.array(stroke.points).T
        line = np.interp(np.arange(a, b) * HOP_S, times, pitches)
        sung = _slow(midi, a, b) if stroke.keep_fine else midi[a:b]
        wanted[a - low : b - low] = sung - sung if stroke.as_sung else line - sung
    for c, d in runs(np.isfinite(wanted)):
        position = np.arange(d - c)
        ramp = max(1.0, min(_BLEND_S / HOP_S, (d - c) / 3))
        weight = smoothstep((position + 1) / ramp) * smoothstep((d - c - position) / ramp)
        part = slice(low + c, low + d)
        correction[part] += weight * (wanted[c:d] - correction[part])


def _frames(stroke: Stroke, within: tuple[int, int], n_frames: int) -> tuple[int, int]:
    first, last = round(stroke.points[0][0] / HOP_S), round(stroke.points[-1][0] / HOP_S) + 1
    return max(within[0], first), min(within[1], last, n_frames)


def _slow(midi: Floats, a: int, b: int) -> Floats:
    """The slow movement in frames [a, b); NaN where there is no pitch."""
    low, high = max(0, a - _SLOW_FRAMES), min(len(midi), b + _SLOW_FRAMES)
    slow = moving_average(fill_gaps(midi[low:high]), _SLOW_FRAMES)
    return np.where(np.isfinite(midi[a:b]), slow[a - low : b - low], np.nan)
