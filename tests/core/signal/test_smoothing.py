import unittest

import numpy as np
import scipy

from glass_thread.core.signal.prediction import read_on_at_ends
from glass_thread.core.signal.smoothing import low_pass
from glass_thread.core.signal.types import HOP_S

TIME = np.arange(800) * HOP_S


class LowPassTest(unittest.TestCase):
    def test_the_response_is_that_of_the_formula(self) -> None:
        for hz, cutoff, order in ((1.0, 2.6, 3), (2.6, 2.6, 3), (6.0, 2.6, 3), (9.0, 15.0, 3), (4.0, 3.0, 2)):
            wave = np.sin(2 * np.pi * hz * TIME)
            left = low_pass(wave, cutoff, order=order)[200:600]
            gain = np.dot(left, wave[200:600]) / np.dot(wave[200:600], wave[200:600])
            ratio = np.sin(np.pi * hz * HOP_S) / np.sin(np.pi * cutoff * HOP_S)
            with self.subTest(hz=hz, cutoff=cutoff, order=order):
                self.assertAlmostEqual(gain, 1.0 / (1.0 + ratio ** (2 * order)), delta=0.01)

    def test_it_solves_the_equations_it_stands_for(self) -> None:
        """Against SciPy's dense solver on the matrix as Whittaker wrote it."""
        values = np.random.default_rng(1).standard_normal(60)
        differences = np.diff(np.eye(60), 3, axis=0)
        weight = (2.0 * np.sin(np.pi * 4.0 * HOP_S)) ** -6
        dense = scipy.linalg.solve(np.eye(60) + weight * differences.T @ differences, values)
        np.testing.assert_allclose(low_pass(values, 4.0), dense, atol=1e-8)

    def test_a_parabola_passes_to_its_ends(self) -> None:
        curve = 60.0 + TIME - 0.5 * TIME**2
        np.testing.assert_allclose(low_pass(curve, 2.6), curve, atol=1e-6)

    def test_few_values_give_their_mean_and_none_give_none(self) -> None:
        np.testing.assert_array_equal(low_pass(np.array([1.0, 2.0, 6.0]), 2.6), [3.0, 3.0, 3.0])
        self.assertEqual(len(low_pass(np.zeros(0), 2.6)), 0)

    def test_the_values_given_are_left_alone(self) -> None:
        values = np.arange(50.0)
        values.flags.writeable = False
        low_pass(values, 3.0)
        read_on_at_ends(values, 20)


class PredictionTest(unittest.TestCase):
    def test_a_swing_on_a_slope_goes_on(self) -> None:
        for hz in (4.5, 5.5, 7.0):
            wave = np.sin(2 * np.pi * hz * TIME) + 0.3 * TIME
            read = read_on_at_ends(wave[200:500], 60)
            with self.subTest(hz=hz):
                np.testing.assert_array_equal(read[60:-60], wave[200:500])
                self.assertLess(np.abs(read[-60:-30] - wave[500:530]).max(), 0.45)
                self.assertLess(np.abs(read[30:60] - wave[170:200]).max(), 0.45)

    def test_what_does_not_move_stays_where_it_is(self) -> None:
        np.testing.assert_allclose(read_on_at_ends(np.full(100, 62.0), 30), 62.0, atol=1e-9)
        np.testing.assert_allclose(read_on_at_ends(np.full(3, 62.0), 30), 62.0, atol=1e-9)

    def test_it_never_runs_away(self) -> None:
        rng = np.random.default_rng(2)
        for n in (4, 9, 20, 60, 300):
            noise = rng.standard_normal(n)
            with self.subTest(n=n):
                self.assertLess(np.abs(read_on_at_ends(noise, 200)).max(), 12.0)
