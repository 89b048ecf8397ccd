"""The correction as release 0.1 made it: gestures of edition 1 keep sounding as they did.

Drift and vibrato are what was fitted (see `analysis.contour`), and a glide is the time over which the correction passes
from one note into the next, centred on the border between them.
"""

from __future__ import annotations

import numpy as np

from ...analysis.notes.contour import ContourParts
from ...document.gestures import USUAL_GLIDE_MS, Gesture, note_frames
from ...signal.signal_tools import smoothstep
from ...signal.types import HOP_S, Floats, Note
from .vibrato import at_its_rate, put_on


def fitted_correction(
    parts: ContourParts, gesture: Gesture, target: float, track_frames: Floats | None = None
) -> Floats:
    """Tuned minus sung pitch inside one note, without its hand curve, in semitones, shape (n,)."""
    n = len(parts.drift)
    change = np.full(n, gesture.pull * (target - parts.centre))
    if gesture.drift != 1.0:
        change += (gesture.drift - 1.0) * parts.drift
    if track_frames is not None:
        change += gesture.vibrato * at_its_rate(parts.vibrato, track_frames, whole=True) - parts.vibrato
    elif gesture.vibrato != 1.0:
        change += (gesture.vibrato - 1.0) * parts.vibrato
    return change + put_on(n, gesture, track_frames)


def fitted_join(total: Floats, left: Note, right: Note, gesture: Gesture) -> None:
    """Blend the corrections of two notes that are sung through, in place."""
    n = len(total)
    a, end = note_frames(left, n)
    start, b = note_frames(right, n)
    glide_ms = USUAL_GLIDE_MS if gesture.glide_ms is None else gesture.glide_ms
    half = int(min(glide_ms / 2000.0 / HOP_S, (end - a) / 2, (b - start) / 2))
    if half < 1:
        return
    low, high = start - half, start + half
    along = (np.arange(low, high) - low + 0.5) / (high - low)
    blend = smoothstep(along ** (2.0 ** (0.9 * gesture.glide_bend)))
    before = np.where(np.arange(low, high) < end, total[low:high], total[end - 1])
    after = np.where(np.arange(low, high) >= start, total[low:high], total[start])
    total[low:high] = before + blend * (after - before)
