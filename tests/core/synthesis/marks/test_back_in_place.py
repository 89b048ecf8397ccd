"""One note tuned in a phrase that is sung through leaves what is before and after it as it was recorded."""

import unittest

import numpy as np
import soundfile as sf

from glass_thread.core.document.content import apply_to_content, as_found
from glass_thread.core.plan.plan import build_plan
from glass_thread.core.signal.types import HOP_S
from glass_thread.core.song.keys import make_tuning, one_key
from glass_thread.core.synthesis.render import render_whole
from glass_thread.core.synthesis.voice.marks.back_in_place import place_back
from glass_thread.core.synthesis.voice.marks.synthesis_marks import place_marks
from tests.kept import analyse
from tests.signals import REAL_TAKE, apply_to

RATE = 44_100
KEY = one_key(make_tuning(0, "chromatic"))


def marks_at(hz: float, seconds: float) -> np.ndarray:
    return np.arange(100.0, seconds * RATE, RATE / hz)


class PlaceBackTest(unittest.TestCase):
    def ratio(self, marks: np.ndarray, from_s: float, to_s: float, cents: float) -> np.ndarray:
        inside = (marks > from_s * RATE) & (marks < to_s * RATE)
        return np.where(inside, 2.0 ** (cents / 1200.0), 1.0)

    def test_the_cycles_after_an_edit_lie_where_they_lay(self) -> None:
        for hz in (110.0, 220.0, 440.0):
            for cents in (7.0, 37.0, -60.0, 180.0):
                marks = marks_at(hz, 3.0)
                placed = place_back(marks, self.ratio(marks, 1.0, 1.9, cents), RATE)
                after = placed.positions > 2.0 * RATE
                with self.subTest(hz=hz, cents=cents):
                    self.assertTrue(placed.still[after].all())
                    np.testing.assert_allclose(placed.positions[after], marks[placed.sources[after]], atol=1e-9)

    def test_the_pitch_is_bent_by_cents_that_are_not_heard(self) -> None:
        marks = marks_at(220.0, 3.0)
        ratio = self.ratio(marks, 1.0, 1.9, 37.0)
        placed = place_back(marks, ratio, RATE)
        middle = (placed.positions > 1.15 * RATE) & (placed.positions < 1.75 * RATE)
        off = 1200.0 * np.log2(placed.ratio[middle]) - 37.0
        self.assertLess(np.abs(off).max(), 2.1)

    def test_two_edits_in_one_breath_come_back_each(self) -> None:
        marks = marks_at(200.0, 4.0)
        ratio = self.ratio(marks, 0.8, 1.5, 30.0) * self.ratio(marks, 2.5, 3.2, -45.0)
        placed = place_back(marks, ratio, RATE)
        between = (placed.positions > 1.6 * RATE) & (placed.positions < 2.4 * RATE)
        self.assertTrue(placed.still[between].all())
        np.testing.assert_allclose(placed.positions[between], marks[placed.sources[between]], atol=1e-9)

    def test_a_later_edit_leaves_an_earlier_one_alone(self) -> None:
        marks = marks_at(200.0, 4.0)
        first = self.ratio(marks, 0.8, 1.5, 30.0)
        one = place_back(marks, first, RATE)
        both = place_back(marks, first * self.ratio(marks, 2.5, 3.2, -45.0), RATE)
        known = one.positions < 2.3 * RATE
        np.testing.assert_array_equal(one.positions[known], both.positions[: known.sum()])

    def test_what_is_too_short_for_it_is_left(self) -> None:
        marks = marks_at(90.0, 2.0)
        ratio = self.ratio(marks, 1.0, 1.03, 80.0)
        np.testing.assert_allclose(
            place_back(marks, ratio, RATE).positions[-1], place_marks(marks, ratio).positions[-1], atol=RATE / 90.0
        )

    def test_where_nothing_moves_nothing_is_asked(self) -> None:
        marks = marks_at(220.0, 1.0)
        np.testing.assert_array_equal(place_back(marks, np.ones(len(marks)), RATE).positions, marks)


class RealVoiceTest(unittest.TestCase):
    def test_one_note_is_moved_and_the_rest_is_the_recording(self) -> None:
        audio, rate = sf.read(str(REAL_TAKE), always_2d=True)
        audio = audio.T[:1]
        found = analyse(audio, rate)
        within = []
        for note in found.notes:
            if note.end_s - note.start_s < 0.25:
                continue
            content = as_found(found)
            change = apply_to(content, KEY, {"type": "move", "note_ids": [note.id], "cents": 37.0}, found)
            plan = build_plan(found, apply_to_content(content, change), KEY)
            sound = render_whole(audio, rate, plan.contour, plan.correction)
            touched = np.flatnonzero(plan.correction) * HOP_S
            differs = np.flatnonzero((sound != audio).any(axis=0)) / rate
            within.append(max(touched[0] - differs[0], differs[-1] - touched[-1]) <= 0.06)
        self.assertGreater(len(within), 8)
        self.assertTrue(all(within), within)
