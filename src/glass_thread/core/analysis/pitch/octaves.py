"""Which octave the voice is in: what its range and its neighbourhood say where single frames are in doubt."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from ...signal.signal_tools import runs_between_leaps
from ...signal.types import HOP_S, Floats

OCTAVE_LEAP, NEAR_OCTAVES = 0.8, 0.1  # octaves
LONGEST_OCTAVE_S, OCTAVE_SHARE, OCTAVE_LOSS = 0.3, 0.6, 0.08
# With another voice under it a whole note can correlate best over two of its periods; then one does nearly as well, by
# 0.05 at most, where notes that are truly so low lose 0.13 and more (synthetic voices with dirt; 0.2 in real ones).
LEAST_NOTE_S, NOTE_SHARE, NOTE_LOSS = 0.1, 0.8, 0.05
HOLE_S = 0.016
SURE_SCORE, LEAST_SURE_S, REACH_OCTAVES, BEYOND_COST, MOST_BEYOND = 0.9, 1.0, 0.4, 0.6, 0.3


def within_reach(path: NDArray[np.int16], lags: Floats, scores: Floats) -> Floats:
    """Scores, lowered for candidates outside the range in which this voice sings where it is read with certainty."""
    row = np.arange(len(path))
    sure = (path >= 0) & (scores[row, np.maximum(path, 0)] > SURE_SCORE)
    if sure.sum() * HOP_S < LEAST_SURE_S:
        return scores
    octave = np.log2(lags)
    low, high = np.percentile(octave[row, np.maximum(path, 0)][sure], (1.0, 99.0))
    beyond = np.maximum(np.maximum(low - REACH_OCTAVES - octave, octave - high - REACH_OCTAVES), 0.0)
    return scores - np.where(scores > 0.0, np.minimum(BEYOND_COST * beyond, MOST_BEYOND), 0.0)


def settle_octaves(hz: Floats, candidates: Floats, scores: Floats) -> Floats:
    """First estimates, shape (n_frames,), 0 unvoiced, with what is read an octave too low raised.

    In noise every second period correlates about as well as each, over a longer window, so that the lower octave
    wins now and then; the voice does not leap an octave down and up again.  `candidates` in Hz and
    `scores` have the shape (n_frames, candidates).  Holes of a frame or three in a stretch of one pitch are closed.
    """
    hz = hz.copy()
    parts = _between_leaps(hz)
    for i, (a, b) in enumerate(parts):
        beside = []
        if i > 0 and (a - parts[i - 1][1]) * HOP_S <= HOLE_S:
            beside.append(np.log2(hz[parts[i - 1][1] - 1] / hz[a]))
        if i < len(parts) - 1 and (parts[i + 1][0] - b) * HOP_S <= HOLE_S:
            beside.append(np.log2(hz[parts[i + 1][0]] / hz[b - 1]))
        joins = bool(beside) and np.abs(np.array(beside) - 1.0).max(initial=0.0) < NEAR_OCTAVES
        share, loss = _octave_above(hz[a:b], candidates[a:b], scores[a:b])
        slip = joins and (b - a) * HOP_S <= LONGEST_OCTAVE_S and share > OCTAVE_SHARE and loss < OCTAVE_LOSS
        if slip or ((b - a) * HOP_S >= LEAST_NOTE_S and share > NOTE_SHARE and loss < NOTE_LOSS):
            hz[a:b] *= 2.0
    for (_, end), (start, _) in itertools.pairwise(_between_leaps(hz)):
        if 0 < start - end <= round(HOLE_S / HOP_S) and abs(np.log2(hz[start] / hz[end - 1])) < NEAR_OCTAVES:
            hz[end:start] = np.interp(np.arange(end, start), (end - 1, start), (hz[end - 1], hz[start]))
    return hz


def _between_leaps(hz: Floats) -> list[tuple[int, int]]:
    """Voiced stretches without a leap of about an octave."""
    octaves = np.log2(hz, out=np.full(len(hz), np.nan), where=hz > 0)
    return runs_between_leaps(octaves, OCTAVE_LEAP)


def _octave_above(hz: Floats, candidates: Floats, scores: Floats) -> tuple[float, float]:
    """In which share of a stretch the octave above is a candidate, and by how much it is worse there."""
    up = np.log2(candidates / hz[:, None])
    here = np.where(np.abs(up) < NEAR_OCTAVES, scores, 0.0).max(axis=1)
    above = np.where(np.abs(up - 1.0) < NEAR_OCTAVES, scores, 0.0).max(axis=1)
    there = above > 0.0
    return float(there.mean()), float(np.median((here - above)[there])) if there.any() else 1.0
