"""Timbre and likeness: what is sung is told apart from how high and how long it is sung."""

import unittest
from functools import lru_cache

import numpy as np

from glass_thread.core.alignment.likeness import likeness, unlikeness
from glass_thread.core.alignment.timbre import performance, timbre
from glass_thread.core.signal.types import HOP_S, Contour
from glass_thread.demo.score import Performance, SungNote
from tests.kept import analyse, sing
from tests.signals import RATE

VOWELS = ("a", "e", "i", "o")


@lru_cache(maxsize=1)
def vowels() -> tuple[np.ndarray, dict[tuple[str, int], slice]]:
    """Features of four vowels, each sung low and short, high and short, and low and long; and where each lies."""
    notes, places, at = [], {}, 0.3
    for number, (midi, length) in enumerate(((57.0, 0.5), (66.0, 0.5), (57.0, 0.9))):
        for vowel in VOWELS:
            notes.append(SungNote(at, at + length, midi, vowel))
            places[vowel, number] = slice(round((at + 0.05) / HOP_S), round((at + length - 0.05) / HOP_S))
            at += length + 0.3
    audio = sing(Performance(at + 0.3, tuple(notes), ()), RATE).audio
    found = analyse(audio, RATE)
    line = audio if audio.ndim == 1 else audio.mean(axis=0)
    return timbre(line, RATE, found.contour, found.level_db), places


class LikenessTest(unittest.TestCase):
    def test_the_same_vowel_is_likest_however_high_and_long(self) -> None:
        features, places = vowels()
        for vowel in VOWELS:
            for number in (1, 2):
                mine = features[places[vowel, 0]]
                alike = {other: likeness(mine, features[places[other, number]]) for other in VOWELS}
                with self.subTest(vowel, number=number):
                    self.assertEqual(max(alike, key=lambda name: alike[name]), vowel, alike)

    def test_itself_is_wholly_alike_and_nothing_is_not(self) -> None:
        features, places = vowels()
        one = features[places["a", 0]]
        self.assertEqual((unlikeness(one, one), likeness(one, one)), (0.0, 1.0))
        self.assertEqual(unlikeness(one, one[:0]), float("inf"))
        self.assertEqual(likeness(one[:0], one), 0.0)

    def test_it_goes_both_ways(self) -> None:
        features, places = vowels()
        one, two = features[places["a", 0]], features[places["o", 2]]
        self.assertAlmostEqual(unlikeness(one, two), unlikeness(two, one), places=9)

    def test_what_is_less_alike_than_asked_is_no_longer_walked_through(self) -> None:
        features, places = vowels()
        one = features[places["a", 0]]
        for place in places.values():
            alike = likeness(one, features[place])
            with self.subTest(alike=alike):
                self.assertEqual(likeness(one, features[place], alike - 1e-9), alike)
                self.assertLessEqual(likeness(one, features[place], min(1.0, alike + 0.01)), alike)

    def test_held_longer_costs_little(self) -> None:
        features, places = vowels()
        one = features[places["e", 0]]
        longer = np.repeat(one, 2, axis=0)
        self.assertLess(unlikeness(one, longer), 0.04)
        self.assertGreater(likeness(one, longer), 0.98)


class FeaturesTest(unittest.TestCase):
    def test_silence_is_the_same_in_any_recording(self) -> None:
        n = 200
        quiet = Contour(np.full(n, np.nan), np.zeros(n))
        for scale in (0.0, 1e-5):
            noise = scale * np.random.default_rng(1).standard_normal(int(n * HOP_S * RATE))
            level = np.full(n, -120.0)
            rows = performance(timbre(noise, RATE, quiet, level), quiet, level, level)
            self.assertEqual(rows.shape[0], n)
            self.assertTrue((rows[:, -2:] == -1.0).all())
            self.assertFalse(rows[:, :-2].any())

    def test_where_the_pitch_is_does_not_matter_how_it_moves_does(self) -> None:
        n = 400
        midi = np.where(np.arange(n) < 200, 60.0, 64.0)
        level, high = np.full(n, -20.0), np.full(n, -60.0)
        made = [performance(np.zeros((n, 15)), Contour(midi + up, np.ones(n)), level, high) for up in (0.0, 7.0, -12.0)]
        for other in made[1:]:
            np.testing.assert_allclose(made[0], other, atol=1e-12)
        moving = made[0][:, 15]
        self.assertGreater(moving[195:205].max(), 0.5)
        self.assertLess(moving[:150].max(), 0.01)

    def test_hiss_is_what_is_bright_and_unvoiced(self) -> None:
        n = 300
        midi = np.where((np.arange(n) > 100) & (np.arange(n) < 140), np.nan, 60.0)
        high = np.where(np.isnan(midi), -25.0, -25.0)
        rows = performance(np.zeros((n, 15)), Contour(midi, np.ones(n)), np.full(n, -20.0), high)
        self.assertTrue((rows[101:140, 14] > 0.5).all())
        self.assertFalse(rows[:100, 14].any())
