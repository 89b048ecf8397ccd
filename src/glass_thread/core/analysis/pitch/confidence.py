"""How sure a reading of the pitch is."""

from __future__ import annotations

import numpy as np
import scipy
from numpy.typing import NDArray

from ...signal.signal_tools import fill_gaps, runs_between_leaps
from ...signal.types import HOP_S, Contour, Floats

CONFIDENCE_WEIGHTS, CONFIDENCE_BIAS = np.array((-0.792, 2.567, -1.988, -2.105)), 2.115

# What is soft among loud notes on both sides may be another voice, or the room; sooner so when it is short, and also
# when it is the little that comes before the first loud note or after the last.
AMONG_S, LONG_S, UNDER_DB = 3.0, 0.1, (11.0, 14.0)
SHORT_S, SHORT_DB, AT_THE_END_S = 0.15, 3.0, 1.0
LEAP_SEMITONES = 0.8
LEAST = 0.1  # of a reading's confidence that stays in doubt


def confidence_features(strength: Floats, voiced: NDArray[np.bool_], midi: Floats) -> Floats:
    """What tells a right reading from a wrong one, per frame, shape (n_frames, 4).

    Height of the correlation peak; the lowest within 25 ms; restlessness of the pitch (0 to 1); closeness to the
    edge of the voiced run (0 to 1).
    """
    low = scipy.ndimage.minimum_filter1d(np.where(voiced, strength, 1.0), 11)
    step = np.abs(np.diff(fill_gaps(midi), prepend=0.0)) * voiced
    step[:1] = 0.0
    restless = scipy.ndimage.maximum_filter1d(np.minimum(step, 1.0), 7)
    inside = np.minimum(scipy.ndimage.distance_transform_edt(np.concatenate(([False], voiced, [False])))[1:-1], 4.0)
    return np.stack((strength, low, restless, 1.0 - inside / 4.0), axis=1)


def confidence_of(strength: Floats, voiced: NDArray[np.bool_], midi: Floats) -> Floats:
    """Probability of being right within 50 cents: a logistic model of the features, zero where unvoiced.

    Fitted on synthesised voices with exact truth: alone, in white noise 20 dB under to 10 dB over the voice, and, as
    far as they are taken for the singer's, with another voice 18 and 30 dB under and in two rooms.
    """
    logit = confidence_features(strength, voiced, midi) @ CONFIDENCE_WEIGHTS + CONFIDENCE_BIAS
    return np.where(voiced, 1.0 / (1.0 + np.exp(-logit)), 0.0)


def doubted(contour: Contour, level: Floats) -> Contour:
    """The contour with less confidence in parts far softer than the loudest ones shortly before and after them.

    `level` in dBFS on the same grid.  In made takes with bleed and rooms next to none of their frames are the singer's;
    of the frames of two real singers and two sung scores 0 to 2 % are doubted.
    """
    doubt = np.zeros(len(level))
    parts = np.array(runs_between_leaps(contour.midi, LEAP_SEMITONES), dtype=np.int64).reshape(-1, 2)
    loud = np.array([np.median(level[a:b]) for a, b in parts])
    under = np.minimum(_under_those_before(parts, loud), _under_those_before(-parts[::-1, ::-1], loud[::-1])[::-1])
    under += SHORT_DB * (parts[:, 1] - parts[:, 0] < SHORT_S / HOP_S)
    for (a, b), db in zip(parts, under, strict=True):
        doubt[a:b] = np.interp(db, UNDER_DB, (0.0, 1.0))
    return Contour(contour.midi, contour.confidence * (1.0 - (1.0 - LEAST) * doubt))


def _under_those_before(parts: NDArray[np.int64], loud: Floats) -> Floats:
    """By how many dB each part is softer than the loudest shortly before it; without bound for the little that comes
    before the first loud one, and 0 when there is nothing to hold it against."""
    length = parts[:, 1] - parts[:, 0]
    long = length > LONG_S / HOP_S
    under = np.zeros(len(parts))
    for i, (a, _b) in enumerate(parts):
        before = loud[:i][long[:i] & (parts[:i, 1] > a - AMONG_S / HOP_S)]
        louder = np.flatnonzero(loud > loud[i] + UNDER_DB[0])
        little = len(louder) > 0 and i < louder[0] and length[: louder[0]].sum() < AT_THE_END_S / HOP_S
        under[i] = np.inf if little else before.max(initial=loud[i]) - loud[i]
    return under
