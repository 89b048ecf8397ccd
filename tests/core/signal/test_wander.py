"""Smooth noise from a seed: its spread, its pace, and that it is the same again."""

import unittest

import numpy as np

from glass_thread.core.signal.wander import Wander


class WanderTest(unittest.TestCase):
    def test_even_over_the_moments_it_is_asked_for(self) -> None:
        at = np.sort(np.random.default_rng(1).uniform(0.0, 60.0, 80))
        for slow_s in (0.3, 1.2, 4.0):
            line = Wander(7, 60.0).line(slow_s, at)
            values = np.array([line.at(float(moment)) for moment in at])
            self.assertAlmostEqual(float(values.mean()), 0.0, places=9)
            self.assertAlmostEqual(float(values.std()), 1.0, places=9)

    def test_the_same_seed_the_same_lines_and_each_line_its_own(self) -> None:
        at = np.arange(0.0, 30.0, 0.5)

        def lines(seed: int) -> list[list[float]]:
            wander = Wander(seed, 30.0)
            return [[line.at(float(moment)) for moment in at] for line in (wander.line(1.0, at), wander.line(1.0, at))]

        first = lines(3)
        self.assertEqual(first, lines(3))
        self.assertNotEqual(first[0], first[1])
        self.assertNotEqual(first[0], lines(4)[0])
        self.assertLess(abs(float(np.corrcoef(first[0], first[1])[0, 1])), 0.5)

    def test_slower_is_smoother(self) -> None:
        at = np.arange(0.0, 60.0, 0.05)
        rough, smooth = (np.array([line.at(float(t)) for t in at]) for line in
                         (Wander(5, 60.0).line(0.2, at), Wander(5, 60.0).line(2.0, at)))  # fmt: skip
        self.assertLess(np.abs(np.diff(smooth)).mean(), 0.4 * np.abs(np.diff(rough)).mean())

    def test_one_moment_has_no_spread(self) -> None:
        line = Wander(1, 1.0).line(0.5, np.array([0.4]))
        self.assertTrue(np.isfinite(line.at(0.4)))
