import unittest

import numpy as np
import scipy.signal as ss

from glass_thread.core.analysis.notes.contour import split_contour
from glass_thread.core.signal.types import HOP_S
from tests.signals import frames

LEVEL = -20.0


def split(midi: np.ndarray):
    return split_contour(midi, np.full(len(midi), LEVEL))


class SplitTest(unittest.TestCase):
    def test_parts_add_up(self) -> None:
        rng = np.random.default_rng(1)
        for seconds in (0.05, 0.2, 0.61, 2.0):
            midi = 60 + np.cumsum(rng.standard_normal(len(frames(seconds)))) * 0.01
            parts = split(midi)
            total = parts.centre + parts.drift + parts.vibrato + parts.fine
            np.testing.assert_allclose(total, midi, rtol=0, atol=1e-12)

    def test_the_centre_of_a_vibrato_tone_is_its_mean(self) -> None:
        # Shonle and Horan 1980; Sundberg 1978: the mean over whole cycles is heard, whatever the phase at the ends.
        t = frames(0.9)
        for phase in np.linspace(0, 2 * np.pi, 7):
            parts = split(62.3 + 0.7 * np.sin(2 * np.pi * 5.5 * t + phase))
            self.assertAlmostEqual(parts.centre, 62.3, delta=0.03)

    def test_vibrato_is_measured(self) -> None:
        t = frames(1.2)
        for rate, cents in ((4.6, 30.0), (5.5, 60.0), (6.4, 110.0), (7.2, 20.0)):
            parts = split(60 + cents / 100 * np.sin(2 * np.pi * rate * t + 0.4) + 0.01 * t)
            with self.subTest(rate=rate):
                assert parts.vibrato_found is not None
                self.assertAlmostEqual(parts.vibrato_found.rate_hz, rate, delta=0.15)
                self.assertAlmostEqual(parts.vibrato_found.extent_cents / cents, 1.0, delta=0.06)

    def test_vibrato_onset(self) -> None:
        t = frames(1.5)
        parts = split(60 + np.where(t > 0.6, 0.5, 0.0) * np.sin(2 * np.pi * 5.5 * t))
        assert parts.vibrato_found is not None
        self.assertAlmostEqual(parts.vibrato_found.onset_s, 0.6, delta=0.12)

    def test_none_is_invented(self) -> None:
        rng = np.random.default_rng(7)
        b, a = ss.butter(2, 0.25)
        wrong = 0
        for _ in range(60):
            n = int(rng.uniform(60, 300))
            jitter = ss.lfilter(b, a, rng.standard_normal(n + 50))[50:] * 0.03
            drift = rng.uniform(-0.4, 0.4) * np.arange(n) * HOP_S
            wrong += split(60 + drift + jitter).vibrato_found is not None
        self.assertLessEqual(wrong, 1)  # under 3 %

    def test_drift_slope(self) -> None:
        t = frames(1.1)
        for slope in (-60.0, -20.0, 0.0, 35.0):
            parts = split(64 + slope / 100 * t + 0.4 * np.sin(2 * np.pi * 5.8 * t))
            self.assertAlmostEqual(parts.drift_cents_per_s, slope, delta=5.0)

    def test_drift_agrees_with_an_independent_low_pass(self) -> None:
        t = frames(3.0)
        slow = 0.3 * np.sin(2 * np.pi * 0.5 * t)
        midi = 60 + slow + 0.4 * np.sin(2 * np.pi * 5.6 * t)
        low = ss.sosfiltfilt(ss.butter(4, 2.5, fs=1 / HOP_S, output="sos"), midi)
        parts = split(midi)
        inner = slice(60, -60)
        self.assertLess(np.max(np.abs(parts.centre + parts.drift - low)[inner]), 0.05)

    def test_drift_has_no_weighted_mean(self) -> None:
        t = frames(0.8)
        parts = split(60 + 0.5 * t)
        self.assertAlmostEqual(float(np.sum(parts.weight * parts.drift)), 0.0, places=9)

    def test_a_scoop_hardly_moves_the_centre(self) -> None:
        t = frames(0.8)
        parts = split(65 - 2.0 * np.exp(-t / 0.04))
        self.assertAlmostEqual(parts.centre, 65.0, delta=0.05)

    def test_fine_movement_is_not_taken_for_vibrato_or_drift(self) -> None:
        t = frames(1.0)
        fine = 0.03 * np.sin(2 * np.pi * 25 * t)
        parts = split(60 + fine)
        self.assertGreater(np.std(parts.fine), 0.9 * np.std(fine))

    def test_gaps_are_bridged(self) -> None:
        midi = np.full(100, 60.0)
        midi[40:44] = np.nan
        self.assertAlmostEqual(split(midi).centre, 60.0)
