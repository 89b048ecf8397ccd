"""Breath in a vowel that is held otherwise goes on at its own speed."""

import unittest

import numpy as np

from glass_thread.core.plan.time_map import TimeMap
from glass_thread.core.synthesis.voice.marks.reading_on import AHEAD_S, read_on
from glass_thread.core.synthesis.voice.marks.synthesis_marks import SynthesisMarks, place_marks
from glass_thread.core.synthesis.voice.overlap_add import overlap_add
from tests.signals import RATE

PERIOD = 200.0
MARKS = PERIOD * np.arange(1.0, 260.0)
BEGIN, END, FAR = 8_000, 40_000, 1 << 36


def held(factor: float) -> SynthesisMarks:
    """Marks of a steady voice of which the middle takes `factor` times as long."""
    stop = BEGIN + round(factor * (END - BEGIN))
    moved = TimeMap(np.array([-FAR, BEGIN, END, FAR]), np.array([-FAR, BEGIN, stop, FAR - END + stop]))
    return place_marks(MARKS, np.ones(len(MARKS)), time_map=moved)


def likeness_of_neighbours(noise: np.ndarray) -> float:
    """Correlation of each cycle with the next."""
    cycles = noise[: len(noise) // int(PERIOD) * int(PERIOD)].reshape(-1, int(PERIOD))
    return float((cycles[1:] * cycles[:-1]).mean() / (cycles**2).mean())


class ReadOnTest(unittest.TestCase):
    def test_what_is_not_stretched_is_read_where_it_was(self) -> None:
        placed = held(1.0)
        self.assertIs(read_on(placed.sources, placed.origins, MARKS, placed.stretched, RATE), placed.sources)

    def test_cycles_follow_each_other_near_where_the_map_is(self) -> None:
        for factor in (0.3, 0.5, 0.8, 1.25, 2.0, 4.0):
            placed = held(factor)
            chosen = read_on(placed.sources, placed.origins, MARKS, placed.stretched, RATE)
            inside = placed.stretched
            with self.subTest(factor=factor):
                off_s = np.abs(MARKS[chosen[inside]] - placed.origins[inside]) / RATE
                self.assertLess(off_s.max(), AHEAD_S + 2 * PERIOD / RATE)
                self.assertGreater(off_s.max(), 0.5 * AHEAD_S)
                np.testing.assert_array_equal(chosen[~inside], placed.sources[~inside])
                self.assertGreater(np.mean(np.diff(chosen) == 1), 0.85)
                where = np.flatnonzero(inside)
                np.testing.assert_array_equal(chosen[where[[0, -1]]], placed.sources[where[[0, -1]]])

    def test_noise_held_twice_as_long_does_not_repeat_at_once(self) -> None:
        noise = np.random.default_rng(4).standard_normal(int(MARKS[-1] + PERIOD))
        placed = held(2.0)
        inside = slice(BEGIN + 2000, BEGIN + 60_000)
        played = {}
        for name, sources in (
            ("nearest", placed.sources),
            ("read on", read_on(placed.sources, placed.origins, MARKS, placed.stretched, RATE)),
        ):
            length = int(placed.positions[-1])
            scales = np.ones(len(sources))
            played[name] = overlap_add(noise, MARKS, sources, placed.positions, scales, length)[inside]
        self.assertGreater(likeness_of_neighbours(played["nearest"]), 0.3)
        self.assertLess(abs(likeness_of_neighbours(played["read on"])), 0.08)
        self.assertGreater(played["read on"].std() / noise.std(), 0.95)
        self.assertGreater(played["read on"].std(), played["nearest"].std())
