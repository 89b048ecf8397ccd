"""Joins of two sounds that differ in time: where they are placed, by which law, and what is heard of them."""

import unittest

import numpy as np

from glass_thread.core.plan.composing import FADE_S, REACH_S
from glass_thread.core.synthesis.joins import joined, place_join
from tests.signals import RATE

ASKED = RATE // 2
REACH = round(REACH_S * RATE)
TIME = np.arange(RATE) / RATE


def tone(hz: float, phase: float = 0.0) -> np.ndarray:
    """A tone with a few harmonics, shape (1, n)."""
    return sum(np.sin(2 * np.pi * k * (hz * TIME + phase)) / k for k in range(1, 6))[np.newaxis] * 0.2


def noise(seed: int) -> np.ndarray:
    return 0.1 * np.random.default_rng(seed).standard_normal((1, RATE))


def place(left: np.ndarray, right: np.ndarray):
    return place_join(left, right, sample_rate=RATE, asked=ASKED, reach=REACH)


class PlaceTest(unittest.TestCase):
    def test_where_both_are_the_same_samples_nothing_is_mixed(self) -> None:
        left = tone(220.0)
        right = left.copy()
        right[:, ASKED - 900 : ASKED + 400] *= 0.5
        join = place(left, right)
        self.assertEqual((join.length, join.law, join.misfit), (0, "none", 0.0))
        self.assertTrue((left[:, join.at - 300 : join.at + 300] == right[:, join.at - 300 : join.at + 300]).all())

    def test_silence_is_looked_for(self) -> None:
        gap = np.ones(RATE)
        gap[ASKED + 2000 : ASKED + 4500] = 1e-4
        join = place(noise(1) * gap, noise(2) * gap)
        self.assertTrue(ASKED + 2000 <= join.at <= ASKED + 4500)
        self.assertTrue(join.clean)

    def test_two_voiced_sounds_are_joined_where_they_are_in_step(self) -> None:
        """Of two tones 40 cents apart the phase runs through a whole turn in 0.2 s."""
        left, right = tone(220.0), tone(220.0 * 2 ** (40 / 1200), 0.45)
        join = place(left, right)
        self.assertEqual(join.law, "equal gain")
        self.assertTrue(join.clean)
        level = self.level_through(left, right, join)
        self.assertLess(np.ptp(level), 0.8)  # dB; out of step it would sink by 12 and more
        worst = self.level_through(left, right, place_join(left, right, sample_rate=RATE, asked=ASKED, reach=0))
        self.assertGreater(np.ptp(worst), np.ptp(level))

    def level_through(self, left: np.ndarray, right: np.ndarray, join) -> np.ndarray:
        part = slice(join.begin, join.end)
        mixed = joined(left[:, part], right[:, part], law=join.law, first=0, length=join.length)[0]
        whole = np.concatenate((left[0, join.begin - 2000 : join.begin], mixed, right[0, join.end : join.end + 2000]))
        windows = np.lib.stride_tricks.sliding_window_view(whole, 2 * round(RATE / 220))[::40]
        return 10 * np.log10((windows**2).mean(axis=1))

    def test_what_cannot_be_joined_is_said(self) -> None:
        self.assertFalse(place(tone(220.0), tone(311.0)).clean)


class LawTest(unittest.TestCase):
    def test_equal_power_keeps_the_power_of_what_differs_and_equal_gain_the_gain_of_what_is_alike(self) -> None:
        length = round(FADE_S * RATE)
        power = np.zeros(length)
        for seed in range(200):
            sides = noise(seed)[:, :length], noise(1000 + seed)[:, :length]
            power += joined(*sides, law="equal power", first=0, length=length)[0] ** 2 / 200
        self.assertLess(abs(10 * np.log10(power.mean() / 0.01)), 0.2)
        self.assertLess(abs(10 * np.log10(power[length // 3 : 2 * length // 3].mean() / 0.01)), 0.4)
        same = noise(3)[:, :length]
        np.testing.assert_allclose(joined(same, same, law="equal gain", first=0, length=length), same, atol=1e-15)

    def test_a_part_of_a_join_is_that_part_of_the_whole(self) -> None:
        left, right = noise(1)[:, :600], noise(2)[:, :600]
        whole = joined(left, right, law="equal power", first=0, length=600)
        part = joined(left[:, 200:350], right[:, 200:350], law="equal power", first=200, length=600)
        np.testing.assert_array_equal(part, whole[:, 200:350])


if __name__ == "__main__":
    unittest.main()
