"""Which notes belong together, on alignments that are known."""

import unittest

import numpy as np

from glass_thread.core.alignment.matching import match_notes
from glass_thread.core.alignment.warping import Alignment, align
from glass_thread.core.signal.types import HOP_S, Note

FRAMES = 800


def note(name: str, start: float, end: float) -> Note:
    return Note(name, start, end, 60.0, 0.0, None, -20.0, 0)


def voiced(*spans: tuple[float, float]) -> np.ndarray:
    found = np.zeros(FRAMES, dtype=bool)
    for start, end in spans:
        found[round(start / HOP_S) : round(end / HOP_S)] = True
    return found


def later(by_s: float) -> Alignment:
    return Alignment(np.arange(FRAMES) * HOP_S + by_s, np.zeros(FRAMES))


class MatchTest(unittest.TestCase):
    def test_all_of_both(self) -> None:
        mine = [note("a", 0.5, 1.0), note("b", 1.5, 2.0)]
        lead = [note("x", 0.6, 1.1), note("y", 1.6, 2.1)]
        found = match_notes(mine, lead, later(0.1), voiced((0.6, 1.1), (1.6, 2.1)), voiced((0.5, 1.0), (1.5, 2.0)))
        self.assertEqual([(one.note_id, one.lead_id) for one in found.pairs], [("a", "x"), ("b", "y")])
        self.assertAlmostEqual(found.pairs[1].start_s, 1.6)
        self.assertEqual((found.alone, found.lead_alone), ((), ()))

    def test_only_one_of_them_sings(self) -> None:
        mine = [note("a", 0.5, 1.0), note("b", 1.5, 2.0)]
        lead = [note("x", 0.5, 1.0), note("y", 2.5, 3.0)]
        found = match_notes(mine, lead, later(0.0), voiced((0.5, 1.0), (2.5, 3.0)), voiced((0.5, 1.0), (1.5, 2.0)))
        self.assertEqual(([one.note_id for one in found.pairs], found.alone, found.lead_alone), (["a"], ("b",), ("y",)))

    def test_a_pace_that_no_singer_has_is_no_match(self) -> None:
        fast = Alignment(np.arange(FRAMES) * HOP_S * 3.0, np.zeros(FRAMES))
        everywhere = np.ones(FRAMES, dtype=bool)
        found = match_notes([note("a", 0.2, 0.6)], [note("x", 0.6, 1.8)], fast, everywhere, everywhere)
        self.assertEqual((found.pairs, found.alone), ((), ("a",)))

    def test_one_note_against_two(self) -> None:
        lead = [note("x", 0.5, 0.7), note("y", 0.7, 1.3)]
        whole = voiced((0.5, 1.3))
        (pair,) = match_notes([note("a", 0.5, 1.3)], lead, later(0.0), whole, whole).pairs
        self.assertEqual(pair.lead_id, "y")  # the one it sounds with longest

    def test_nobody_sings(self) -> None:
        nothing = np.zeros(FRAMES, dtype=bool)
        found = match_notes([], [note("x", 0.5, 1.0)], later(0.0), nothing, nothing)
        self.assertEqual((found.pairs, found.lead_alone), ((), ("x",)))


class WarpTest(unittest.TestCase):
    def rows(self, centres: list[float], frames: int = 500) -> np.ndarray:
        """Features with a bump at each of some frames, silence in the last two columns elsewhere."""
        at = np.arange(frames)
        bumps = [np.exp(-(((at - centre) / 8.0) ** 2)) for centre in centres]
        heard = np.sum(bumps, axis=0)
        return np.column_stack([*bumps, 2.0 * heard - 1.0, 2.0 * heard - 1.0])

    def test_each_moment_finds_its_own(self) -> None:
        mine, lead = [100.0, 220.0, 340.0], [112.0, 214.0, 350.0]
        found = align(self.rows(mine), self.rows(lead))
        for a, b in zip(mine, lead, strict=True):
            self.assertAlmostEqual(found.at(a * HOP_S), b * HOP_S, delta=0.011)

    def test_what_is_further_off_than_the_reach_is_not_looked_for(self) -> None:
        found = align(self.rows([100.0]), self.rows([400.0]), reach_s=0.2)
        self.assertLessEqual(float(np.abs(found.lead_s - np.arange(500) * HOP_S).max()), 0.2001)

    def test_an_anchor_holds_against_the_sound(self) -> None:
        rows = self.rows([150.0, 300.0])
        free = align(rows, rows)
        held = align(rows, rows, anchors=[(0.85, 0.75)])
        self.assertAlmostEqual(free.at(0.75), 0.75, delta=0.006)
        self.assertAlmostEqual(held.at(0.75), 0.85, delta=0.011)
        self.assertAlmostEqual(held.at(1.5), 1.5, delta=0.011)  # and is forgotten where it is not needed
