import unittest

import numpy as np
import scipy

from glass_thread.core.signal.recording import held
from glass_thread.core.song.chroma import MEDIAN_BINS, _median_around, chroma
from tests.signals import RATE, harmonic_tone


def chord(*midi: float, seconds: float = 4.0) -> np.ndarray:
    return sum(harmonic_tone(np.full(int(seconds * RATE), m), RATE, harmonics=4, level=0.1) for m in midi)


class ChromaTest(unittest.TestCase):
    def test_a_triad_has_its_three_classes(self) -> None:
        found = chroma(held(chord(48.0, 52.0, 55.0), RATE))
        self.assertEqual(set(np.argsort(-found)[:3]), {0, 4, 7})
        self.assertAlmostEqual(found.sum(), 1.0)
        self.assertGreater(found[[0, 4, 7]].sum(), 0.7)  # the rest are partials: B and G sharp over E, D over G

    def test_another_tuning(self) -> None:
        flat = 12 * np.log2(415.0 / 440.0)
        found = chroma(held(chord(60.0 + flat), RATE), reference_hz=415.0)
        self.assertEqual(int(np.argmax(found)), 0)

    def test_a_long_row_has_the_medians_of_each_row(self) -> None:
        rows = np.random.default_rng(4).standard_normal((7, 90))
        alone = scipy.ndimage.median_filter(rows, size=(1, MEDIAN_BINS))
        np.testing.assert_array_equal(_median_around(rows), alone)

    def test_silence_and_very_little(self) -> None:
        self.assertEqual(chroma(held(np.zeros(RATE), RATE)).sum(), 0.0)
        self.assertEqual(chroma(held(np.zeros(10), RATE)).shape, (12,))
