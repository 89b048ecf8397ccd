"""Pitch drawn by hand over a stretch: it replaces the computed contour there, with short blends at both ends."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..signal.signal_tools import fill_gaps, moving_average, runs, smoothstep
from ..signal.types import HOP_S, Contour, Floats

_BLEND_S = 0.03
_SLOW_S = 0.12  # what moves slower than this is replaced when the fine movement is kept


@dataclass(frozen=True)
class Stroke:
    """Pitch drawn by hand.

    Attributes
    ----------
    points : tuple of (time in s, MIDI)
        Rising in time, straight between them.
    keep_fine : bool
        Keep the voice's own fine movement and replace only what moves slowly.
    """

    points: tuple[tuple[float, float], ...]
    keep_fine: bool = False


def follow_hand(correction: Floats, contour: Contour, strokes: Sequence[Stroke]) -> None:
    """Put the voiced frames under `strokes` onto them; `correction`, shape (n_frames,) in semitones, in place."""
    if not strokes:
        return
    wanted = np.full(len(correction), np.nan)
    slow = moving_average(fill_gaps(contour.midi), int(_SLOW_S / HOP_S) | 1)
    for stroke in strokes:
        times, pitches = np.array(stroke.points).T
        a, b = round(times[0] / HOP_S), min(len(correction), round(times[-1] / HOP_S) + 1)
        drawn = np.interp(np.arange(a, b) * HOP_S, times, pitches)
        wanted[a:b] = drawn - (slow[a:b] if stroke.keep_fine else contour.midi[a:b])
    for a, b in runs(np.isfinite(wanted)):
        position = np.arange(b - a)
        ramp = max(1.0, min(_BLEND_S / HOP_S, (b - a) / 3))
        weight = smoothstep((position + 1) / ramp) * smoothstep((b - a - position) / ramp)
        correction[a:b] += weight * (wanted[a:b] - correction[a:b])
