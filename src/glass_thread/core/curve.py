"""Force the pitch onto a curve given from outside."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy.ndimage as ndi

from .gestures import note_frames
from .signal_tools import fill_gaps, moving_average
from .types import HOP_S, Contour, Floats, Note

LEAVE_ALONE_CENTS = 6.0  # a note whose pitch is this near already stays as sung
_SMOOTH_S = 0.05
_BLEND_S = 0.06


def curve_correction(contour: Contour, notes: Sequence[Note], target_midi: Floats) -> Floats:
    """Correction in semitones that puts voiced frames onto `target_midi`.

    Parameters
    ----------
    contour : Contour
        The sung pitch.
    notes : sequence of Note
        Notes found in it; a note already within 6 cents (rms) of the curve is left alone.
    target_midi : ndarray, shape (n_frames,)
        Wanted pitch on the analysis grid, NaN where nothing is asked.

    Returns
    -------
    correction : ndarray, shape (n_frames,)
        Exactly 0 in notes left alone and where nothing is asked.
    """
    asked = contour.voiced & np.isfinite(target_midi)
    wanted = fill_gaps(np.where(asked, target_midi - contour.midi, np.nan))
    correction = ndi.median_filter(wanted, 3)
    slow = moving_average(wanted, int(_SMOOTH_S / HOP_S))
    touched = np.ones(len(wanted))
    for note in notes:
        a, b = note_frames(note, len(touched))
        edge = (b - a) // 8
        inner = slow[a + edge : b - edge][asked[a + edge : b - edge]]
        if len(inner) and np.sqrt(np.mean(inner * inner)) < LEAVE_ALONE_CENTS / 100.0:
            touched[a:b] = 0.0
    blend = moving_average(touched, int(_BLEND_S / HOP_S) | 1)
    inside = np.clip(2.0 * blend - 1.0, 0.0, 1.0)
    return np.where(contour.voiced & asked, correction * inside, 0.0)
