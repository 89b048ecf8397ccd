"""Holes in a sung note: where breath or roughness hides the periods for a moment, though the voice goes on."""

from __future__ import annotations

import itertools

import numpy as np

from ..signal.signal_tools import runs
from ..signal.types import HOP_S, Contour, Floats
from .air import AirFeatures

LONGEST_S, NEAR_SEMITONES, DEEPEST_DB = 0.12, 1.0, 8.0
LOW_SHARE = 0.5  # power below 1 kHz, of all: a voice's spectrum, no fricative's
CONFIDENCE = 0.5  # of what is only read across a hole
_BESIDE_FRAMES = 6


def close_holes(contour: Contour, level: Floats, features: AirFeatures) -> Contour:
    """The contour with a straight line across short holes that keep level, colour and pitch of both sides."""
    midi, confidence = contour.midi.copy(), contour.confidence.copy()
    share = features.power[:, 0] / np.maximum(features.power.sum(axis=1), 1e-20)
    for (_, a), (b, _) in itertools.pairwise(runs(contour.voiced)):
        left, right = contour.midi[max(0, a - _BESIDE_FRAMES) : a], contour.midi[b : b + _BESIDE_FRAMES]
        before, after = float(np.nanmedian(left)), float(np.nanmedian(right))
        beside = min(level[max(0, a - _BESIDE_FRAMES) : a].max(), level[b : b + _BESIDE_FRAMES].max())
        short = (b - a) * HOP_S <= LONGEST_S and abs(before - after) < NEAR_SEMITONES
        if short and level[a:b].min() > beside - DEEPEST_DB and np.median(share[a:b]) > LOW_SHARE:
            midi[a:b] = np.linspace(before, after, b - a + 2)[1:-1]
            confidence[a:b] = CONFIDENCE
    return Contour(midi, confidence)
