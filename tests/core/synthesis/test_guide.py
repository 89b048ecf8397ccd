"""The tone that plays a melody along: in tune, without a jump, the same in pieces as whole."""

from __future__ import annotations

import unittest
from itertools import pairwise

import numpy as np

from glass_thread.core.synthesis.guide import LEVEL, guide_tone

RATE = 48000
NOTES = [(0.1, 0.6, 69.0), (0.6, 0.9, 72.31), (1.2, 1.21, 60.0)]


class GuideTest(unittest.TestCase):
    def test_each_tone_has_its_pitch(self) -> None:
        """The pitch is read from zero crossings, by which nothing here was made."""
        sound = guide_tone(NOTES, 0, 2 * RATE, RATE)
        for (start, end, _midi), hz in zip(NOTES[:2], (440.0, 440.0 * 2 ** (3.31 / 12)), strict=True):
            part = sound[round((start + 0.05) * RATE) : round((end - 0.05) * RATE)]
            rising = np.flatnonzero((part[:-1] < 0) & (part[1:] >= 0))
            at = rising - part[rising] / (part[rising + 1] - part[rising])
            self.assertAlmostEqual((len(at) - 1) * RATE / (at[-1] - at[0]), hz, delta=0.02)

    def test_it_is_soft_and_sets_in_softly(self) -> None:
        sound = guide_tone(NOTES, 0, 2 * RATE, RATE)
        self.assertLess(float(np.abs(sound).max()), 1.35 * LEVEL)
        self.assertLess(float(np.abs(np.diff(sound)).max()), 0.025)
        self.assertEqual(float(np.abs(sound[: round(0.1 * RATE)]).max()), 0.0)
        self.assertEqual(float(np.abs(sound[round(1.3 * RATE) :]).max()), 0.0)

    def test_pieces_are_the_whole(self) -> None:
        whole = guide_tone(NOTES, 0, RATE, RATE)
        borders = [0, 1, 5000, 28801, 28802, 40000, RATE]
        pieces = [guide_tone(NOTES, a, b, RATE) for a, b in pairwise(borders)]
        np.testing.assert_array_equal(np.concatenate(pieces), whole)
