"""Force the pitch onto a curve given from outside."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from ...document.gestures import note_frames
from ...signal.signal_tools import fill_gaps, moving_average, runs
from ...signal.types import HOP_S, Contour, Floats, Note

NEAR = 0.06  # semitones; a note within this (rms, and twice this at most) away from its edges stays as sung
LEAP_SEMITONES = 0.5
OFF_SHARE, LONGEST_OFF_S = 0.15, 0.06  # a whole voiced run stays as sung when no more than this of it is off
_SMOOTH_S = 0.05
_BLEND_S = 0.06


def curve_correction(contour: Contour, notes: Sequence[Note], target_midi: Floats) -> Floats:
    """Correction in semitones that puts voiced frames onto `target_midi`.

    Parameters
    ----------
    contour : Contour
        The sung pitch.
    notes : sequence of Note
        Notes found in it; a note already within 6 cents of the curve is left alone.
    target_midi : ndarray, shape (n_frames,)
        Wanted pitch on the analysis grid, NaN where nothing is asked.

    Returns
    -------
    correction : ndarray, shape (n_frames,)
        Exactly 0 in notes left alone and where nothing is asked.
    """
    asked = contour.voiced & np.isfinite(target_midi)
    wanted = fill_gaps(np.where(asked, target_midi - contour.midi, np.nan))
    typical = scipy.ndimage.median_filter(wanted, 5)
    correction = np.where(np.abs(wanted - typical) > LEAP_SEMITONES, typical, wanted)  # a misread frame
    slow = moving_average(wanted, int(_SMOOTH_S / HOP_S))
    touched = np.ones(len(wanted))
    for note in notes:
        a, b = note_frames(note, len(touched))
        edge = (b - a) // 8
        inner = slow[a + edge : b - edge][asked[a + edge : b - edge]]
        if len(inner) and np.sqrt(np.mean(inner * inner)) < NEAR and np.abs(inner).max() < 2.0 * NEAR:
            touched[a:b] = 0.0
    for a, b in runs(contour.voiced):
        off = [last - first for first, last in runs(np.abs(slow[a:b]) > NEAR)]
        if sum(off) < OFF_SHARE * (b - a) and max(off, default=0) * HOP_S <= LONGEST_OFF_S:
            touched[a:b] = 0.0
    blend = moving_average(touched, int(_BLEND_S / HOP_S) | 1)
    inside = np.clip(2.0 * blend - 1.0, 0.0, 1.0)
    return np.where(contour.voiced & asked, correction * inside, 0.0)
