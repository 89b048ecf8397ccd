import unittest

import numpy as np

from glass_thread.bench.finding.analysis import truth_on_grid
from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.signal.errors import ParameterError
from glass_thread.demo import dirt
from glass_thread.demo.voices import random_performance
from tests.kept import analyse, sing
from tests.signals import RATE, analysed_short, harmonic_tone, sung_short, vibrato_midi


def cents_off(tracked: np.ndarray, truth: np.ndarray, rate: int, margin: int = 8) -> np.ndarray:
    """Absolute error in cents on frames away from the ends."""
    index = np.clip(np.round(np.arange(len(tracked)) * 0.005 * rate).astype(int), 0, len(truth) - 1)
    return 100 * np.abs(tracked - truth[index])[margin:-margin]


class TrackerTest(unittest.TestCase):
    def test_steady_tones_over_the_range(self) -> None:
        for midi in (33.0, 40.0, 52.37, 64.0, 76.8, 85.0):
            with self.subTest(midi=midi):
                truth = np.full(16_000, midi)
                found = track_f0(harmonic_tone(truth, 16_000), 16_000)
                self.assertTrue(found.voiced[8:-8].all())
                self.assertLess(np.max(cents_off(found.midi, truth, 16_000)), 1.0)

    def test_a_chirp_is_followed(self) -> None:
        truth = np.linspace(50.0, 74.0, 2 * RATE)  # an octave a second
        found = track_f0(harmonic_tone(truth, RATE), RATE)
        self.assertLess(np.median(cents_off(found.midi, truth, RATE)), 2.0)

    def test_vibrato_is_followed(self) -> None:
        truth = vibrato_midi(2.0, RATE, centre=67.0, hz=6.0, cents=80.0)
        found = track_f0(harmonic_tone(truth, RATE), RATE)
        self.assertLess(np.percentile(cents_off(found.midi, truth, RATE), 95), 5.0)

    def test_missing_fundamental(self) -> None:
        truth = np.full(RATE, 50.0)
        whole = harmonic_tone(truth, RATE)
        fundamental = 0.2 * np.sin(2 * np.pi * np.cumsum(np.full(RATE, 146.832)) / RATE)
        found = track_f0(whole - fundamental, RATE)
        self.assertLess(np.max(cents_off(found.midi, truth, RATE)), 3.0)

    def test_silence_and_noise_are_unvoiced(self) -> None:
        self.assertFalse(track_f0(np.zeros(RATE), RATE).voiced.any())
        noise = np.random.default_rng(3).standard_normal(RATE) * 0.1
        self.assertLess(track_f0(noise, RATE).voiced.mean(), 0.05)

    def test_confidence_is_a_probability(self) -> None:
        found = analysed_short().contour
        self.assertTrue(((found.confidence >= 0) & (found.confidence <= 1)).all())
        self.assertTrue((found.confidence[~found.voiced] == 0).all())

    def test_confidence_says_how_often_it_is_right_in_clean_and_dirty_takes(self) -> None:
        said, right = [], []
        for name in ("tenor", "alto", "breathy"):
            sung = sing(random_performance(name, 9), RATE)
            truth = truth_on_grid(sung)
            for dirty in (
                sung, dirt.in_noise(sung, 5.0, 6), dirt.in_noise(sung, 10.0, 6), dirt.with_bleed(sung, -18.0, 6),
                dirt.in_a_room(sung, -12.0, 6),
            ):  # fmt: skip
                found = analyse(dirty.audio, RATE).contour
                said.append(found.confidence[found.voiced])
                right.append(np.abs(found.midi - np.nan_to_num(truth, nan=-99.0))[found.voiced] < 0.5)
        confidence, correct = np.concatenate(said), np.concatenate(right)
        for low, high in ((0.7, 0.85), (0.85, 0.95), (0.95, 1.01)):
            inside = (confidence >= low) & (confidence < high)
            self.assertGreater(inside.sum(), 100)
            self.assertAlmostEqual(correct[inside].mean(), confidence[inside].mean(), delta=0.1)

    def test_one_sample_and_odd_rates(self) -> None:
        self.assertEqual(len(track_f0(np.zeros(1), 8000).midi), 1)
        for rate in (8_000, 11_025, 96_000):
            truth = np.full(rate, 57.0)
            found = track_f0(harmonic_tone(truth, rate), rate)
            self.assertLess(np.max(cents_off(found.midi, truth, rate)), 2.0)

    def test_input_is_not_written(self) -> None:
        tone = harmonic_tone(np.full(8000, 60.0), 16_000)
        tone.flags.writeable = False
        track_f0(tone, 16_000)

    def test_range_is_checked(self) -> None:
        with self.assertRaises(ParameterError):
            track_f0(np.zeros(100), RATE, low_hz=20)

    def test_the_singer_with_known_truth(self) -> None:
        _, sung = sung_short()
        found = analysed_short().contour
        index = np.clip((found.times * RATE).astype(int), 0, len(sung.midi) - 1)
        truth = sung.midi[index]
        both = np.isfinite(truth) & found.voiced
        error = 100 * np.abs(found.midi - truth)[both]
        self.assertGreater(np.mean(error < 50), 0.985)
        self.assertGreater(np.mean(error < 10), 0.93)
        self.assertLess(np.median(error), 1.2)
        self.assertGreater(np.mean(found.voiced[np.isfinite(truth)]), 0.97)
        self.assertLess(np.mean(found.voiced[~np.isfinite(truth)]), 0.05)
