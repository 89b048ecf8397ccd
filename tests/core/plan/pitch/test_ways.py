"""The way between two notes that are sung through: passed over as it was sung, or a glide as long as asked."""

import unittest

import numpy as np

from glass_thread.core.document.gestures import Gesture
from glass_thread.core.plan.pitch.ways import glide_shape, join_notes, sung_way
from glass_thread.core.signal.types import HOP_S


def two_notes(*, way_s: float = 0.06, up: float = 3.0, seconds: float = 0.6) -> tuple[np.ndarray, int]:
    """Two notes sung through, and the frame at which the second begins: the middle of the way."""
    n = round(seconds / HOP_S)
    t = (np.arange(2 * n) - n + 0.5) * HOP_S
    along = np.clip(t / way_s + 0.5, 0.0, 1.0)
    return 60.0 + up * along * along * (3.0 - 2.0 * along), n


def timed(tuned: np.ndarray, low: float, high: float) -> float:
    """Milliseconds in which 15 to 85 % of the way between two pitches are gone."""
    along = (tuned - low) / (high - low)
    rising = np.maximum.accumulate(along)
    begin, end = np.interp((0.15, 0.85), rising, np.arange(len(rising)))
    return 1000.0 * HOP_S * float(end - begin)


def joined(midi: np.ndarray, border: int, gesture: Gesture, left: float = 0.0, right: float = 0.0) -> np.ndarray:
    total = np.where(np.arange(len(midi)) < border, left, right)
    join_notes(total, midi, (0, border), (border, len(midi)), gesture)
    return total


class WayTest(unittest.TestCase):
    def test_it_is_found_where_it_was_sung(self) -> None:
        for way_s in (0.06, 0.12, 0.24):
            midi, border = two_notes(way_s=way_s)
            way = sung_way(midi, border)
            with self.subTest(way_s=way_s):
                self.assertAlmostEqual((way.high - way.low) * HOP_S, way_s, delta=0.06)
                self.assertAlmostEqual(way.middle, border, delta=1)

    def test_notes_of_one_pitch_have_a_short_one_around_the_border(self) -> None:
        way = sung_way(np.full(200, 60.0), 100)
        self.assertEqual((way.low, way.middle, way.high), (93, 100, 107))

    def test_a_glide_takes_as_long_as_asked_tuned_or_not(self) -> None:
        for asked in (20.0, 60.0, 120.0, 240.0):
            for up in (2.0, -3.0, 7.0):
                for bend in (-0.5, 0.0, 0.5):
                    for left, right in ((0.0, 0.0), (0.4, -0.3)):
                        midi, border = two_notes(up=up)
                        tuned = midi + joined(midi, border, Gesture(glide_ms=asked, glide_bend=bend), left, right)
                        with self.subTest(asked=asked, up=up, bend=bend, left=left):
                            self.assertAlmostEqual(timed(tuned, 60.0 + left, 60.0 + up + right), asked, delta=10.0)

    def test_a_border_beside_the_way_breaks_nothing(self) -> None:
        # the way is sung 0.08 s after the border, so the second note has it as a scoop, which is taken out whole
        for late, way_s in ((16, 0.06), (-16, 0.06)):
            midi, middle = two_notes(way_s=way_s)
            border = middle - late
            scoop = np.where(np.arange(len(midi)) < border, 0.0, 63.0 - midi)
            fall = np.where(np.arange(len(midi)) < border, 60.0 - midi, 0.0)
            for glide in (None, 60.0):
                total = (scoop if late > 0 else fall).copy()
                join_notes(total, midi, (0, border), (border, len(midi)), Gesture(glide_ms=glide))
                with self.subTest(late=late, glide=glide):
                    self.assertLess(np.abs(np.diff(midi + total)).max(), 0.8)

    def test_what_was_sung_is_left_outside_of_a_glide(self) -> None:
        midi, border = two_notes()
        total = joined(midi, border, Gesture(glide_ms=60.0))
        self.assertTrue(total.any())
        self.assertFalse(total[: border - 30].any())
        self.assertFalse(total[border + 30 :].any())

    def test_as_sung_only_the_correction_passes_and_without_a_corner(self) -> None:
        midi, border = two_notes(way_s=0.12)
        total = joined(midi, border, Gesture(), 0.0, -0.6)
        self.assertEqual((total[0], total[-1]), (0.0, -0.6))
        self.assertTrue((np.diff(total) <= 1e-12).all())
        self.assertLess(np.abs(np.diff(total, 2)).max(), 0.01)

    def test_a_bend_says_when_most_of_it_happens(self) -> None:
        early, even, late = (float(glide_shape(np.array([0.5]), bend)[0]) for bend in (-1.0, 0.0, 1.0))
        self.assertGreater(early, even + 0.2)
        self.assertGreater(even, late + 0.2)
        self.assertAlmostEqual(even, 0.5)
