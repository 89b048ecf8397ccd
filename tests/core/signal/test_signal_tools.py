import unittest

import numpy as np
import scipy.signal as ss

from glass_thread.core.analysis.air import air_features, rumble_in_sibilants
from glass_thread.core.signal.errors import AudioError, ParameterError
from glass_thread.core.signal.signal_tools import (
    fill_gaps,
    frame_rms,
    local_polynomial,
    merged_ranges,
    moving_average,
    resample,
    runs,
    smoothstep,
)
from glass_thread.core.signal.validation import in_range, valid_audio
from tests.signals import RATE


class LocalPolynomialTest(unittest.TestCase):
    def test_agrees_with_scipy(self) -> None:
        values = np.random.default_rng(4).standard_normal(40)
        for width, order, derivative in ((5, 1, 0), (5, 2, 0), (7, 2, 1), (5, 2, 1)):
            want = ss.savgol_filter(values, width, order, deriv=derivative)
            np.testing.assert_allclose(local_polynomial(values, width, order, derivative=derivative), want, atol=1e-12)


class RunsTest(unittest.TestCase):
    def test_by_hand(self) -> None:
        self.assertEqual(runs([0, 1, 1, 0, 1]), [(1, 3), (4, 5)])
        self.assertEqual(runs([1, 1]), [(0, 2)])
        self.assertEqual(runs([0, 0]), [])
        self.assertEqual(runs([]), [])

    def test_ranges_that_touch_or_lie_near_are_one(self) -> None:
        given = [(5, 6), (0, 2), (2, 3), (1, 2), (8, 9)]
        self.assertEqual(merged_ranges(given), [(0, 3), (5, 6), (8, 9)])
        self.assertEqual(merged_ranges(given, 2), [(0, 9)])
        self.assertEqual(merged_ranges([]), [])

    def test_random_masks_are_rebuilt(self) -> None:
        rng = np.random.default_rng(1)
        for _ in range(20):
            mask = rng.random(50) < 0.5
            back = np.zeros(50, bool)
            for a, b in runs(mask):
                back[a:b] = True
            np.testing.assert_array_equal(back, mask)


class SmoothingTest(unittest.TestCase):
    def test_smoothstep_is_flat_at_both_ends(self) -> None:
        u = np.linspace(-0.5, 1.5, 2001)
        y = smoothstep(u)
        self.assertEqual((y[0], y[-1]), (0.0, 1.0))
        self.assertAlmostEqual(float(smoothstep(0.5)), 0.5)
        slope = np.gradient(y, u)
        self.assertLess(np.max(np.abs(np.diff(slope))), 0.02)  # C1: the slope has no jump

    def test_moving_average(self) -> None:
        np.testing.assert_allclose(moving_average(np.array([1.0, 2.0, 6.0, 3.0]), 3), [1.5, 3.0, 11 / 3, 4.5])
        np.testing.assert_array_equal(moving_average(np.arange(5.0), 1), np.arange(5.0))

    def test_fill_gaps(self) -> None:
        np.testing.assert_array_equal(fill_gaps(np.array([np.nan, 1.0, np.nan, 3.0, np.nan])), [1, 1, 2, 3, 3])
        np.testing.assert_array_equal(fill_gaps(np.full(3, np.nan)), np.zeros(3))


class FramesTest(unittest.TestCase):
    def test_blocks_give_what_the_whole_gives(self) -> None:
        rng = np.random.default_rng(2)
        x = rng.standard_normal(60 * 8000)
        times = np.arange(0, 60, 0.005)  # more frames than one block holds
        got = frame_rms(x, 8000, times, 0.02)
        for i in (0, 5, 8191, 8192, 8193, 11_000, len(times) - 1):
            c = round(times[i] * 8000)
            self.assertAlmostEqual(got[i], np.sqrt(np.mean(x[max(0, c - 80) : c + 80] ** 2)), places=9)

    def test_air_features_in_blocks(self) -> None:
        rng = np.random.default_rng(3)
        x = rng.standard_normal(25 * 8000)
        features = air_features(x, 8000, 5001)
        later = air_features(x[8000 * 21 :], 8000, 801)
        np.testing.assert_allclose(features.power[4205:4900], later.power[5:700], rtol=1e-4)

    def test_resampling_keeps_a_tone(self) -> None:
        tone = np.sin(2 * np.pi * 440 * np.arange(44_100) / 44_100)
        out = resample(tone, 44_100, 16_000)
        want = np.sin(2 * np.pi * 440 * np.arange(len(out)) / 16_000)
        self.assertLess(np.max(np.abs(out - want)[200:-200]), 1e-3)
        self.assertIs(resample(tone, 8000, 8000), tone)


class RumbleTest(unittest.TestCase):
    def test_a_hum_under_a_sibilant_is_no_note(self) -> None:
        rng = np.random.default_rng(4)
        hiss = np.diff(rng.standard_normal(RATE // 2 + 3), n=3) * 0.05
        hum = 0.005 * np.sin(2 * np.pi * 78 * np.arange(len(hiss)) / RATE)
        features = air_features(hiss + hum, RATE, 100)
        midi = np.full(100, 60.0)
        midi[40:60] = 39.0
        wrong = rumble_in_sibilants(midi, features)
        index = np.arange(100)
        alone = np.where((index >= 10) & (index < 50), 39.0, np.nan)
        self.assertTrue(rumble_in_sibilants(alone, features)[10:50].all())
        self.assertFalse(wrong[:35].any())


class ValidationTest(unittest.TestCase):
    def test_audio(self) -> None:
        self.assertEqual(valid_audio(np.zeros(5), 8000).shape, (1, 5))
        for audio, rate, words in (
            (np.zeros(0), 8000, "no samples"),
            (np.zeros(5), 7999, "8 to 192"),
            (np.zeros(5), 192_001, "8 to 192"),
            (np.array([0.0, np.nan]), 8000, "not numbers"),
            (np.array([0.0, np.inf]), 8000, "not numbers"),
            (np.zeros((1, 2, 3)), 8000, "one row"),
        ):
            with self.subTest(words=words), self.assertRaisesRegex(AudioError, words):
                valid_audio(audio, rate)

    def test_ranges(self) -> None:
        self.assertEqual(in_range(1, 0, 2, "X"), 1.0)
        for value in (-0.1, 2.1, float("nan"), float("inf")):
            with self.assertRaisesRegex(ParameterError, "X must be between 0 and 2"):
                in_range(value, 0, 2, "X")
        with self.assertRaisesRegex(ParameterError, "−24"):
            in_range(99, -24, 12, "Level")
        with self.assertRaisesRegex(ParameterError, r"between 0\.25 and 4; got 0\.0329341\.$"):
            in_range(0.03293413173652695, 0.25, 4, "Length")
