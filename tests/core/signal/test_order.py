"""Order statistics against NumPy's."""

import unittest

import numpy as np

from glass_thread.core.signal.order import looked_up, median_of, quantile_of


class OrderTest(unittest.TestCase):
    def test_the_same_as_numpy_to_the_last_bit(self) -> None:
        rng = np.random.default_rng(3)
        for size in (1, 2, 3, 4, 5, 10, 33, 400):
            for _ in range(40):
                values = rng.standard_normal(size) * 10.0 ** rng.integers(-6, 6)
                with self.subTest(size=size):
                    self.assertEqual(median_of(values), float(np.median(values)))
                    for share in (0.0, 0.05, 0.85, 0.95, 1.0):
                        self.assertEqual(quantile_of(values, share), float(np.quantile(values, share)))

    def test_tables_are_looked_up_as_numpy_does(self) -> None:
        rng = np.random.default_rng(3)
        for _ in range(500):
            places = np.sort(rng.normal(size=rng.integers(1, 6))).tolist()
            values = rng.normal(size=len(places)).tolist()
            for at in (*rng.normal(0.0, 2.0, 4).tolist(), *places):
                self.assertEqual(looked_up(at, places, values), np.interp(at, places, values))
