"""Loudness and true peak against published signals and a reference library."""

import unittest

import numpy as np
import pyloudnorm

from glass_thread.core.measure.loudness import PEAK_FILTER, LoudnessMeter, _high_pass, _shelf, measure_loudness
from tests.kept import sing
from tests.signals import analysed_short, short_performance

RATE = 48_000


def tone(level_db: float, seconds: float, *, hz: float = 1000.0, rate: int = RATE) -> np.ndarray:
    t = np.arange(round(seconds * rate)) / rate
    return 10 ** (level_db / 20) * np.sin(2 * np.pi * hz * t)


def stereo(*parts: np.ndarray) -> np.ndarray:
    return np.tile(np.concatenate(parts), (2, 1))


class StandardTest(unittest.TestCase):
    def test_filters_at_48_khz_are_those_of_the_standard(self) -> None:
        """ITU-R BS.1770-4, annex 1, tables 1 and 2."""
        b, a = _shelf(48_000)
        np.testing.assert_allclose(b, [1.53512485958697, -2.69169618940638, 1.19839281085285], atol=1e-8)
        np.testing.assert_allclose(a, [1.0, -1.69065929318241, 0.73248077421585], atol=1e-8)
        b, a = _high_pass(48_000)
        np.testing.assert_allclose(b, [1.0, -2.0, 1.0])
        np.testing.assert_allclose(a, [1.0, -1.99004745483398, 0.99007225036621], atol=1e-8)

    def test_one_channel_of_full_scale(self) -> None:
        """BS.1770-4, annex 1: a 0 dBFS sine of 997 Hz on the left, centre or right reads -3.01 LKFS."""
        left = np.stack((tone(0.0, 10, hz=997.0), np.zeros(10 * RATE)))
        self.assertAlmostEqual(measure_loudness(left, RATE).integrated_lufs, -3.01, delta=0.01)

    def test_minimum_requirements_signals(self) -> None:
        """EBU Tech 3341 (2016), table 1, cases 1 to 5, from memory; tolerance 0.1 LU."""
        for case, parts, expected in (
            (1, [(-23, 20)], -23.0),
            (2, [(-33, 20)], -33.0),
            (3, [(-36, 10), (-23, 60), (-36, 10)], -23.0),
            (4, [(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)], -23.0),
            (5, [(-26, 20), (-20, 20.1), (-26, 20)], -23.0),
        ):
            for rate in (44_100, 48_000):
                audio = stereo(*(tone(level, seconds, rate=rate) for level, seconds in parts))
                with self.subTest(case=case, rate=rate):
                    self.assertAlmostEqual(measure_loudness(audio, rate).integrated_lufs, expected, delta=0.1)

    def test_true_peak_signals(self) -> None:
        """EBU Tech 3341, cases 15 to 19, from memory; tolerance +0.2 and -0.4 dB."""
        n = np.arange(RATE)
        for divisor, degrees, amplitude, expected in (
            (4, 0.0, 0.5, -6.0), (4, 45.0, 0.5, -6.0), (6, 60.0, 0.5, -6.0), (8, 67.5, 0.5, -6.0), (4, 45.0, 1.41, 3.0),
        ):  # fmt: skip
            wave = amplitude * np.sin(2 * np.pi * n / divisor + np.radians(degrees))
            fade = np.minimum(1.0, np.minimum(n, n[::-1]) / 2000)
            found = measure_loudness((wave * fade)[np.newaxis], RATE).true_peak_dbtp
            with self.subTest(divisor=divisor, degrees=degrees):
                self.assertLessEqual(found, expected + 0.2)
                self.assertGreaterEqual(found, expected - 0.4)

    def test_the_peak_filter_is_that_of_annex_2(self) -> None:
        """BS.1770-4, annex 2: four phases of twelve, mirrored in pairs; the first passes a constant almost as it is."""
        phases = np.array(PEAK_FILTER)
        self.assertEqual(phases.shape, (4, 12))
        np.testing.assert_array_equal(phases[3], phases[0][::-1])
        np.testing.assert_array_equal(phases[2], phases[1][::-1])
        np.testing.assert_allclose(phases.sum(axis=1), 1.0, atol=0.03)


class ReferenceTest(unittest.TestCase):
    def test_agrees_with_a_reference_library(self) -> None:
        """pyloudnorm 0.2 (the same standard) on noise, a voice and bursts, at several rates; 0.1 LU."""
        rng = np.random.default_rng(3)
        voice = sing(short_performance(), 44_100).audio
        burst = rng.standard_normal(8 * 44_100) * np.repeat(rng.uniform(0.001, 0.3, 16), 22_050)
        for name, audio, rate in (
            ("voice", voice[np.newaxis], 44_100),
            ("bursts", burst[np.newaxis], 44_100),
            ("stereo", 0.1 * rng.standard_normal((2, 5 * 48_000)), 48_000),
            ("high rate", 0.1 * rng.standard_normal((1, 3 * 96_000)), 96_000),
        ):
            reference = pyloudnorm.Meter(rate, filter_class="DeMan").integrated_loudness(audio.T)
            with self.subTest(name):
                self.assertAlmostEqual(measure_loudness(audio, rate).integrated_lufs, reference, delta=0.1)

    def test_parts_read_like_the_whole(self) -> None:
        rng = np.random.default_rng(4)
        audio = 0.2 * rng.standard_normal((2, 100_000))
        meter = LoudnessMeter(RATE, 2)
        for begin, end in ((0, 1), (1, 7000), (7000, 7000), (7000, 61_234), (61_234, 100_000)):
            meter.add(audio[:, begin:end])
        parts, whole = meter.result(), measure_loudness(audio, RATE)
        self.assertAlmostEqual(parts.integrated_lufs, whole.integrated_lufs, places=9)
        self.assertAlmostEqual(parts.true_peak_dbtp, whole.true_peak_dbtp, places=9)

    def test_silence_and_snippets(self) -> None:
        self.assertIsNone(measure_loudness(np.zeros((1, RATE)), RATE).integrated_lufs)
        self.assertIsNone(measure_loudness(np.zeros((1, 0)), RATE).integrated_lufs)
        snippet = measure_loudness(tone(-20.0, 0.2)[np.newaxis], RATE)
        self.assertAlmostEqual(snippet.integrated_lufs, -23.0, delta=0.2)  # mono: one channel of -20 dBFS
        self.assertLess(analysed_short().high_db.max(), 0.0)
