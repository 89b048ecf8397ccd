import unittest

import numpy as np

from glass_thread.core.analysis.f0 import track_f0
from glass_thread.core.plan.time_map import move_rigid_pieces, stretch_map, unmoved
from glass_thread.core.signal.errors import ParameterError
from glass_thread.core.signal.types import HOP_S, AirEvent
from glass_thread.core.synthesis.render import render_whole
from tests.signals import RATE, analysed_short, contour_of, sung_short

VOICED = contour_of(np.full(400, 60.0))


class MapTest(unittest.TestCase):
    def test_unmoved_moves_nothing(self) -> None:
        self.assertEqual(unmoved().to_target(123.25), 123.25)
        self.assertEqual((unmoved().shift_at(99.0), unmoved().added), (0, 0))

    def test_length_follows_the_factor_and_what_comes_later_moves_along(self) -> None:
        made = stretch_map(VOICED, (), [(0.5, 1.0, 1.5)], RATE)
        self.assertAlmostEqual(made.added / RATE, 0.25, places=4)
        self.assertEqual(made.to_target(0.4 * RATE), 0.4 * RATE)
        self.assertEqual(made.shift_at(1.5 * RATE), made.added)
        self.assertTrue((np.diff(made.target) > 0).all())

    def test_air_inside_a_stretch_keeps_its_length(self) -> None:
        air = (AirEvent("a1", "sibilant", 0.7, 0.8, -20.0),)
        made = stretch_map(VOICED, air, [(0.5, 1.0, 2.0)], RATE)
        start, end = made.to_target(0.7 * RATE), made.to_target(0.8 * RATE)
        self.assertAlmostEqual(end - start, 0.1 * RATE, delta=1.0)
        self.assertAlmostEqual(made.added / RATE, 0.5, places=3)

    def test_what_cannot_be_stretched_is_said(self) -> None:
        unvoiced = contour_of(np.full(400, np.nan))
        for contour, stretches, message in (
            (VOICED, [(0.5, 1.0, 9.0)], "stretch must be between"),
            (VOICED, [(0.5, 1.0, float("nan"))], "stretch must be between"),
            (VOICED, [(0.5, 1.0, 1.2), (0.9, 1.4, 1.2)], "overlap"),
            (unvoiced, [(0.5, 1.0, 1.2)], "too little vowel"),
        ):
            with self.assertRaisesRegex(ParameterError, message):
                stretch_map(contour, (), stretches, RATE)

    def test_rigid_pieces_are_the_same_samples(self) -> None:
        x = np.random.default_rng(2).standard_normal((1, 2 * RATE))
        made = stretch_map(VOICED, (), [(0.5, 1.0, 0.8)], RATE)
        out = move_rigid_pieces(x, made)
        self.assertEqual(out.shape[1], x.shape[1] + made.added)
        np.testing.assert_array_equal(out[:, : RATE // 2], x[:, : RATE // 2])
        np.testing.assert_array_equal(out[:, -RATE // 2 :], x[:, -RATE // 2 :])


class StretchTest(unittest.TestCase):
    audio = sung_short()[1].audio[np.newaxis]

    def stretched(self, note: int, factor: float):
        found = analysed_short()
        target = found.notes[note]
        made = stretch_map(found.contour, found.air, [(target.start_s, target.end_s, factor)], RATE)
        still = np.zeros(len(found.contour.midi))
        return made, render_whole(self.audio, RATE, found.contour, still, time_map=made)

    def test_the_pitch_stays(self) -> None:
        found = analysed_short()
        note = found.notes[3]
        place = np.arange(round(note.start_s / HOP_S) + 16, round(note.end_s / HOP_S) - 16)
        for factor in (0.5, 0.8, 1.4, 2.0):
            made, out = self.stretched(3, factor)
            read = track_f0(out[0], RATE).midi
            there = np.array([made.to_target(i * HOP_S * RATE) for i in place]) / RATE / HOP_S
            off = 100 * (np.interp(there, np.arange(len(read)), read) - found.contour.midi[place])
            with self.subTest(factor=factor):
                self.assertLess(abs(np.median(off)), 2.0)
                self.assertLess(np.percentile(np.abs(off), 90), 4.0)
                self.assertAlmostEqual(out.shape[1] - self.audio.shape[1], made.added)

    def test_all_outside_the_note_is_the_same_samples_moved(self) -> None:
        made, out = self.stretched(2, 1.7)
        note = analysed_short().notes[2]
        a, b = int((note.start_s - 0.01) * RATE), int((note.end_s + 0.03) * RATE)
        np.testing.assert_array_equal(out[:, :a], self.audio[:, :a])
        np.testing.assert_array_equal(out[:, b + made.added :], self.audio[:, b:])

    def test_no_click_where_stretched_and_rigid_meet(self) -> None:
        for factor in (0.6, 1.6):
            made, out = self.stretched(2, factor)
            note = analysed_short().notes[2]
            a, b = int(note.start_s * RATE), int(note.end_s * RATE)
            allowed = np.max(np.abs(np.diff(self.audio[0, a:b])))
            self.assertLessEqual(np.max(np.abs(np.diff(out[0, a : b + made.added]))), 1.05 * allowed)
