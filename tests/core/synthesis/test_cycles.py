"""Between pitch marks, against SciPy's own monotone cubic."""

import unittest

import numpy as np
from scipy.interpolate import PchipInterpolator

from glass_thread.core.synthesis.voice.cycles import cycle_phase, cycle_positions


class CyclesTest(unittest.TestCase):
    def test_phase_is_the_monotone_cubic_through_the_marks_and_beyond(self) -> None:
        rng = np.random.default_rng(1)
        for n in (2, 3, 4, 60):
            marks = np.cumsum(rng.uniform(60.0, 180.0, n))
            at = np.arange(np.floor(marks[0]) - 30, np.ceil(marks[-1]) + 30)
            reference = PchipInterpolator(marks, np.arange(float(n)), extrapolate=True)
            with self.subTest(n=n):
                np.testing.assert_allclose(cycle_phase(marks, at), reference(at), atol=1e-11)
                np.testing.assert_array_equal(cycle_phase(marks, at[40:50]), cycle_phase(marks, at)[40:50])

    def test_positions_are_where_that_phase_is(self) -> None:
        marks = np.cumsum(np.random.default_rng(2).uniform(90.0, 140.0, 40))
        for cycles in (np.linspace(0.0, 39.0, 3000), np.array([7.0, 7.25, 8.0]), np.array([39.0])):
            np.testing.assert_allclose(cycle_phase(marks, cycle_positions(marks, cycles)), cycles, atol=1e-8)

    def test_nothing_asked_nothing_told(self) -> None:
        self.assertEqual(len(cycle_phase(np.arange(3.0), np.zeros(0))), 0)
        self.assertEqual(len(cycle_positions(np.arange(3.0), np.zeros(0))), 0)
