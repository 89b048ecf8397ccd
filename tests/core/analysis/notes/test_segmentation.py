import unittest

import numpy as np

from glass_thread.core.analysis.notes.segmentation import cut_run, middle_of, note_ranges, vibrato_midline
from glass_thread.core.signal.signal_tools import smoothstep
from glass_thread.core.signal.types import HOP_S
from tests.signals import frames


def steps(pitches: list[float], seconds: float, glide: float = 0.06) -> np.ndarray:
    """Steady pitches one after the other with smooth ways between."""
    t = frames(len(pitches) * seconds)
    out = np.full(len(t), float(pitches[0]))
    for i in range(1, len(pitches)):
        out += (pitches[i] - pitches[i - 1]) * smoothstep((t - i * seconds + glide / 2) / glide)
    return out


def loud(midi: np.ndarray) -> np.ndarray:
    return np.full(len(midi), -20.0)


class MiddleTest(unittest.TestCase):
    def test_it_is_numpys_median_to_the_bit(self) -> None:
        rng = np.random.default_rng(5)
        for n in (*range(1, 12), 70, 71, 500):
            for values in (rng.normal(6000.0, 50.0, n), rng.integers(0, 3, n).astype(float), np.arange(n) / 3.0):
                for order in (values, np.sort(values), np.sort(values)[::-1].copy()):
                    with self.subTest(n=n):
                        self.assertEqual(middle_of(order), np.median(order))


class CutTest(unittest.TestCase):
    def test_steps_are_cut_in_the_middle_of_the_way(self) -> None:
        cuts = cut_run(steps([60, 62, 59], 0.5), np.full(300, -20.0))
        np.testing.assert_allclose(np.array(cuts) * HOP_S, [0.5, 1.0], atol=0.02)

    def test_fast_runs(self) -> None:
        midi = steps([60, 62, 64, 65, 67, 65], 0.15, 0.04)
        self.assertEqual(len(cut_run(midi, loud(midi))), 5)

    def test_vibrato_scoop_and_drift_do_not_split(self) -> None:
        t = frames(1.4)
        for name, midi in {
            "wide vibrato": 60 + 1.3 * smoothstep((t - 0.2) / 0.2) * np.sin(2 * np.pi * 5.2 * t),
            "narrow vibrato": 60 + 0.3 * np.sin(2 * np.pi * 6.0 * t),
            "scoop": 60 - 2.0 * (1 - smoothstep(t / 0.2)),
            "fall": 60 - 2.5 * smoothstep((t - 1.15) / 0.25),
            "drift": 60 + 0.4 * t,
        }.items():
            with self.subTest(name):
                self.assertEqual(cut_run(midi, loud(midi)), [])

    def test_two_pitches_in_one_breath(self) -> None:
        midi = steps([64.0, 65.0], 0.4)
        self.assertEqual(len(cut_run(midi, loud(midi))), 1)

    def test_repeated_notes_are_split_at_the_consonant(self) -> None:
        t = frames(1.2)
        level = np.where(np.abs(t - 0.6) < 0.03, -32.0, -20.0)
        cuts = cut_run(np.full(len(t), 60.0), level)
        self.assertEqual(len(cuts), 1)
        self.assertAlmostEqual(cuts[0] * HOP_S, 0.57, delta=0.03)

    def test_more_sensitivity_never_finds_fewer(self) -> None:
        rng = np.random.default_rng(11)
        for _ in range(6):
            midi = steps(list(60 + rng.integers(-3, 4, 8) * 0.5), 0.25) + 0.05 * rng.standard_normal(len(frames(2.0)))
            counts = [len(cut_run(midi, loud(midi), sensitivity=s)) for s in (-2, -1, 0, 1, 2)]
            self.assertEqual(counts, sorted(counts))

    def test_ranges_of_a_whole_track(self) -> None:
        midi = np.full(400, np.nan)
        midi[50:150] = 60.0
        midi[200:300] = steps([62, 64], 0.25)
        midi[350:353] = 70.0  # too short to be a note
        self.assertEqual(len(note_ranges(midi, np.full(400, -20.0))), 3)

    def test_nothing_at_all(self) -> None:
        self.assertEqual(note_ranges(np.full(10, np.nan), np.zeros(10)), [])
        self.assertEqual(cut_run(np.array([60.0]), np.array([-20.0])), [])


class MidlineTest(unittest.TestCase):
    def test_a_vibrato_becomes_its_middle(self) -> None:
        t = frames(1.0)
        flat = vibrato_midline(6000 + 90 * np.sin(2 * np.pi * 5.5 * t))
        self.assertLess(np.max(np.abs(flat - 6000)[15:-15]), 15)

    def test_steps_are_left(self) -> None:
        cents = 100 * steps([60, 62, 60, 62, 60, 62], 0.13, 0.04)
        np.testing.assert_array_equal(vibrato_midline(cents), cents)
