"""Passes by aspect, notes left as sung, what a cut keeps, rubbing out, joins, and stretches of level."""

import unittest
from dataclasses import replace

import numpy as np

from glass_thread.core.document.content import Content, apply_to_content
from glass_thread.core.document.gestures import Gesture
from glass_thread.core.document.notes import EditedNote
from glass_thread.core.document.operations.registry import describe, parse_operation
from glass_thread.core.plan.level_plan import SILENT_DB
from glass_thread.core.plan.plan import build_plan
from glass_thread.core.signal.errors import NotFoundError, ParameterError
from glass_thread.core.signal.types import Note
from glass_thread.core.song.keys import make_tuning, one_key
from tests.signals import NOTHING_FOUND, apply_change, apply_operation, apply_to, contour_of, frames

KEY = one_key(make_tuning(0, "major"))


def take(*pitches: float, seconds: float = 0.5, movement: float = 0.3):
    """Notes sung through, each moving by `movement` semitones, with an analysis of them."""
    t = frames(seconds)
    midi = np.concatenate([pitch + movement * np.sin(2 * np.pi * 3.7 * t) for pitch in pitches])
    notes = tuple(Note(f"n{i:04d}", i * seconds, (i + 1) * seconds, pitch, 0.0, None, -20.0, 0)
                  for i, pitch in enumerate(pitches, 1))  # fmt: skip
    notes = tuple(replace(n, start_s=n.start_s - seconds, end_s=n.end_s - seconds) for n in notes)
    length = len(pitches) * seconds
    found = replace(NOTHING_FOUND, contour=contour_of(midi), level_db=np.full(len(midi), -20.0), notes=notes,
                    duration_s=length)  # fmt: skip
    return found, {note.id: EditedNote(note) for note in notes}


class EditsCase(unittest.TestCase):
    def setUp(self) -> None:
        self.found, self.notes = take(60.3, 62.2, 63.8, 65.1)
        self.content = Content(self.notes)

    def do(self, **operation) -> dict:
        change = apply_to(self.content, KEY, operation, self.found)
        self.content = apply_to_content(self.content, change)
        self.notes = dict(self.content.notes)
        return change

    def gesture(self, name: str) -> Gesture:
        return self.content.notes[name].gesture

    def correction(self) -> np.ndarray:
        return build_plan(self.found, self.content, KEY).correction


class PassTest(EditsCase):
    ids = ("n0001", "n0002", "n0003", "n0004")

    def test_a_second_pass_replaces_what_the_first_set(self) -> None:
        self.do(type="tune_pass", note_ids=self.ids, pull=0.75, drift=0.6)
        self.assertEqual(len(self.do(type="tune_pass", note_ids=self.ids, pull=0.6)), 4)
        self.assertEqual({self.gesture(name).pull for name in self.ids}, {0.6})
        self.assertEqual({self.gesture(name).drift for name in self.ids}, {1.0})

    def test_it_keeps_off_what_a_hand_set_value_by_value(self) -> None:
        self.do(type="set", note_ids=["n0001"], values={"drift": 0.2})
        self.do(type="set", note_ids=["n0002"], values={"target_midi": 64.0, "pull": 0.9})
        self.do(type="nudge", note_ids=["n0003"], values={"level_db": -2.0})
        self.do(type="tune_pass", note_ids=self.ids, pull=0.7, drift=0.5)
        self.assertEqual((self.gesture("n0001").pull, self.gesture("n0001").drift), (0.7, 0.2))
        second = self.gesture("n0002")
        self.assertEqual((second.target_midi, second.pull, second.drift), (64.0, 0.9, 0.5))
        third = self.gesture("n0003")  # a level is no pitch edit
        self.assertEqual((third.pull, third.level_db), (0.7, -2.0))

    def test_what_a_hand_changes_of_a_pass_is_the_hands(self) -> None:
        self.do(type="tune_pass", note_ids=self.ids, pull=0.7, drift=0.5)
        self.do(type="nudge", note_ids=["n0001"], values={"drift": -0.1})
        self.do(type="tune_pass", note_ids=self.ids, pull=0.5, drift=1.0)
        self.assertAlmostEqual(self.gesture("n0001").drift, 0.4)
        self.assertEqual((self.gesture("n0001").pull, self.gesture("n0002").drift), (0.5, 1.0))

    def test_all_is_replaced_when_asked(self) -> None:
        self.do(type="set", note_ids=["n0001"], values={"drift": 0.2})
        self.do(type="tune_pass", note_ids=self.ids, drift=0.8, keep_edited=False)
        self.assertEqual(self.gesture("n0001").drift, 0.8)

    def test_ways_in_and_out_are_only_touched_when_asked(self) -> None:
        self.do(type="set", note_ids=["n0001"], values={"scoop": 0.5})
        self.do(type="tune_pass", note_ids=self.ids, movement=0.4, keep_edited=False)
        self.assertEqual((self.gesture("n0001").scoop, self.gesture("n0001").movement), (0.5, 0.4))
        self.do(type="tune_pass", note_ids=self.ids, fall=0.3)
        self.assertEqual(self.gesture("n0002").fall, 0.3)

    def test_to_within_some_cents(self) -> None:
        self.do(type="tune_pass", note_ids=self.ids, within_cents=12.0)
        tuned = self.found.contour.midi + self.correction()
        for name, target in (("n0001", 60.12), ("n0002", 62.12), ("n0003", 63.88), ("n0004", 65.1)):
            note = self.content.notes[name].note
            inner = tuned[round(note.start_s / 0.005) + 25 : round(note.end_s / 0.005) - 25]
            with self.subTest(name):
                self.assertAlmostEqual(float(np.mean(inner)), target, delta=0.06)

    def test_movement_acts_on_what_no_detector_finds(self) -> None:
        self.do(type="set", note_ids=self.ids, values={"movement": 0.0})
        tuned = (self.found.contour.midi + self.correction())[30:70]
        self.assertLess(100 * np.std(tuned), 1.0)
        self.assertGreater(100 * np.std(self.found.contour.midi[30:70]), 15.0)


class LeftAsSungTest(EditsCase):
    def test_passes_pass_it_by_until_a_hand_edits_it(self) -> None:
        self.do(type="tune", note_ids=["n0002"])
        self.do(type="leave_as_sung", note_ids=["n0002"])
        self.assertEqual((self.gesture("n0002"), self.content.notes["n0002"].leave_as_sung), (Gesture(), True))
        self.do(type="tune_pass", note_ids=list(self.notes), keep_edited=False)
        self.do(type="even_out", note_ids=list(self.notes), lift=1.0)
        self.assertEqual(self.gesture("n0002"), Gesture())
        self.do(type="nudge", note_ids=["n0002"], values={"level_db": 1.0})
        self.assertFalse(self.content.notes["n0002"].leave_as_sung)

    def test_so_do_glazes(self) -> None:
        self.do(type="leave_as_sung", note_ids=["n0002"])
        self.do(type="glaze", values={"settle_ms": 0.0, "tolerance_cents": 0.0, "keep_vibrato": False})
        glaze = build_plan(self.found, self.content, KEY).glaze
        self.assertTrue(glaze[20:80].all())
        self.assertFalse(glaze[100:200].any())

    def test_the_mark_comes_off(self) -> None:
        self.do(type="leave_as_sung", note_ids=["n0002"])
        self.do(type="leave_as_sung", note_ids=["n0002"], leave=False)
        self.do(type="tune_pass", note_ids=list(self.notes))
        self.assertEqual(self.gesture("n0002").pull, 1.0)

    def test_a_hard_glaze_leaves_little_movement(self) -> None:
        self.do(type="glaze", values={"settle_ms": 0.0, "tolerance_cents": 0.0, "shortest_ms": 50.0,
                                      "keep_vibrato": False})  # fmt: skip
        tuned = (self.found.contour.midi + self.correction())[130:170]
        self.assertLess(100 * np.std(tuned), 3.0)


class CutTest(EditsCase):
    def setUp(self) -> None:
        midi = np.concatenate([np.full(80, 60.1), np.full(80, 61.8)])
        note = Note("n0001", 0.0, 0.8, 60.9, 0.0, None, -20.0, 0)
        self.found = replace(NOTHING_FOUND, contour=contour_of(midi), level_db=np.full(160, -20.0), notes=(note,),
                             duration_s=0.8)  # fmt: skip
        self.notes = {"n0001": EditedNote(note)}
        self.content = Content(self.notes)

    def test_both_parts_keep_what_was_asked_on_their_own_pitch(self) -> None:
        self.do(type="tune", note_ids=["n0001"])
        self.do(type="set", note_ids=["n0001"], values={"movement": 0.5, "level_db": -2.0, "lean_in": 20.0})
        self.do(type="split", note_id="n0001", at_s=0.39)
        left, right = self.content.notes.values()
        self.assertAlmostEqual(left.note.end_s, 0.4, delta=0.011)
        self.assertEqual((left.gesture.target_midi, right.gesture.target_midi), (60.0, 62.0))
        for part in (left, right):
            self.assertEqual((part.gesture.pull, part.gesture.movement, part.gesture.level_db), (1.0, 0.5, -2.0))
        self.assertEqual((left.gesture.lean_in, right.gesture.lean_in), (20.0, 0.0))

    def test_a_free_target_keeps_its_distance_and_a_hand_curve_its_place(self) -> None:
        self.do(type="set", note_ids=["n0001"], values={"rounding": "free", "target_midi": 61.4, "pull": 1.0})
        self.do(type="draw", points=[[0.1, 60.5], [0.7, 61.5]])
        self.do(type="split", note_id="n0001", at_s=0.4, exact=True)
        left, right = self.content.notes.values()
        self.assertAlmostEqual(left.gesture.target_midi - left.note.centre_midi, 0.5, delta=0.02)
        self.assertAlmostEqual(right.gesture.target_midi - right.note.centre_midi, 0.5, delta=0.02)
        self.assertAlmostEqual(left.gesture.hand[0].points[-1][0], 0.4)
        self.assertAlmostEqual(right.gesture.hand[0].points[0][0], 0.4)

    def test_no_crumb_is_left_over(self) -> None:
        self.do(type="split", note_id="n0001", at_s=0.02)
        self.assertGreaterEqual(min(e.note.end_s - e.note.start_s for e in self.content.notes.values()), 0.08 - 1e-9)

    def test_all_that_hold_two_pitches_at_once(self) -> None:
        change = self.do(type="split_two_pitches")
        self.assertEqual(len(change), 2)
        self.assertAlmostEqual(next(iter(self.content.notes.values())).note.end_s, 0.4, delta=0.02)
        with self.assertRaisesRegex(ParameterError, "holds two pitches"):
            self.do(type="split_two_pitches")


class RubOutTest(EditsCase):
    def test_a_stretch_of_a_tuned_note_is_as_sung_and_the_rest_stays(self) -> None:
        self.do(type="tune", note_ids=["n0002"])
        before = self.correction()
        self.do(type="rub_out", start_s=0.65, end_s=0.8)
        after = self.correction()
        np.testing.assert_allclose(after[138:152], 0.0, atol=1e-12)
        np.testing.assert_array_equal(after[105:125], before[105:125])
        np.testing.assert_array_equal(after[170:190], before[170:190])
        self.assertLess(np.abs(np.diff(after[105:195])).max(), 0.06)  # blended

    def test_what_was_drawn_goes_first(self) -> None:
        self.do(type="tune", note_ids=["n0002"])
        tuned = self.correction()
        self.do(type="draw", points=[[0.6, 62.5], [0.9, 62.6]])
        self.do(type="rub_out", start_s=0.5, end_s=1.0)
        np.testing.assert_array_equal(self.correction(), tuned)

    def test_where_nothing_was_done_it_says_so(self) -> None:
        with self.assertRaisesRegex(ParameterError, "as sung"):
            self.do(type="rub_out", start_s=0.6, end_s=0.8)


class JoinTest(EditsCase):
    def test_softening_says_how_many_joins_and_why_none(self) -> None:
        operation = {"type": "soften_joins", "note_ids": ["n0002", "n0003"]}
        change = self.do(**operation)
        self.assertEqual(describe(parse_operation(operation), change), "Soften the joins · 2 joins")
        with self.assertRaisesRegex(ParameterError, "this soft already"):
            self.do(**operation)
        longer = self.do(**operation, amount=1.5)
        self.assertGreater(self.gesture("n0003").glide_ms, 60.0)
        self.assertEqual(len(longer), 2)
        with self.assertRaisesRegex(ParameterError, "no join here"):
            self.do(type="soften_joins", note_ids=["n0001"])
        with self.assertRaisesRegex(ParameterError, "no join here"):
            self.do(type="set", note_ids=["n0001"], values={"glide_ms": 100.0})

    def test_a_glide_of_untuned_notes_changes_the_pitch_and_as_sung_takes_it_back(self) -> None:
        self.do(type="set", note_ids=["n0003"], values={"glide_ms": 200.0})
        self.assertGreater(np.abs(self.correction()).max(), 0.3)
        self.assertFalse(self.content.notes["n0003"].gesture.sounds_as_sung)
        self.do(type="set", note_ids=["n0003"], values={"glide_ms": None})
        self.assertFalse(self.correction().any())

    def test_lengths_are_held_to_their_range(self) -> None:
        for wrong in (5.0, 500.0, "long"):
            with self.assertRaisesRegex(ParameterError, "null for as sung"):
                apply_operation(self.notes, KEY, {"type": "set", "note_ids": ["n0002"], "values": {"glide_ms": wrong}})


class LevelStretchTest(EditsCase):
    def level(self) -> np.ndarray:
        return build_plan(self.found, self.content, KEY).level_db

    def test_over_several_notes_with_fades_inside(self) -> None:
        self.do(type="level_stretch", start_s=0.4, end_s=1.2, level_db=-6.0, fade_ms=50.0)
        level = self.level()
        np.testing.assert_array_equal(level[95:225], -6.0)
        self.assertFalse(level[:80].any())
        self.assertFalse(level[240:].any())
        self.assertTrue((np.diff(level[80:92]) <= 0.0).all())

    def test_silence_and_back(self) -> None:
        self.do(type="level_stretch", start_s=0.6, end_s=0.9, fade_ms=5.0)
        self.assertLessEqual(self.level()[125:175].max(), SILENT_DB)
        (name,) = self.content.level_stretches
        self.do(type="set_level_stretch", stretch_ids=[name], values={"level_db": 2.0})
        self.assertEqual(self.level()[150], 2.0)
        self.do(type="remove_level_stretch")
        self.assertFalse(self.level().any())

    def test_it_adds_to_the_level_of_a_note(self) -> None:
        self.do(type="nudge", note_ids=["n0002"], values={"level_db": -2.0})
        self.do(type="level_stretch", start_s=0.6, end_s=0.9, level_db=-3.0)
        self.assertEqual(self.level()[150], -5.0)

    def test_a_new_one_takes_the_place_of_what_reaches_into_it(self) -> None:
        self.do(type="level_stretch", start_s=0.2, end_s=1.8, level_db=-3.0)
        self.do(type="level_stretch", start_s=0.8, end_s=1.0, level_db=1.0)
        spans = [(one.start_s, one.end_s, one.level_db) for one in self.content.level_stretches.values()]
        self.assertEqual(spans, [(0.2, 0.8, -3.0), (0.8, 1.0, 1.0), (1.0, 1.8, -3.0)])

    def test_windows_give_what_the_whole_gives(self) -> None:
        from glass_thread.core.plan.plan import changed_plan

        before = build_plan(self.found, self.content, KEY)
        change = self.do(type="level_stretch", start_s=0.55, end_s=1.61, level_db=-6.0, fade_ms=200.0)
        windowed, _ = changed_plan(before, self.found, self.content, change, KEY)
        np.testing.assert_array_equal(windowed.level_db, self.level())

    def test_what_cannot_be_is_said(self) -> None:
        for wrong in ({"start_s": 0.5, "end_s": 0.505}, {"start_s": 0.5, "end_s": 1.0, "fade_ms": 900.0},
                      {"start_s": 0.5, "end_s": 1.0, "level_db": 40.0}):  # fmt: skip
            with self.assertRaises(ParameterError):
                self.do(type="level_stretch", **wrong)
        with self.assertRaises(NotFoundError):
            self.do(type="set_level_stretch", stretch_ids=["l0009"], values={"level_db": 1.0})


class WholeTest(EditsCase):
    def test_undoing_gives_the_first_document(self) -> None:
        first = self.content
        changes = [self.do(**one) for one in (
            {"type": "tune_pass", "note_ids": ["n0001", "n0002"], "pull": 0.5},
            {"type": "leave_as_sung", "note_ids": ["n0001"]},
            {"type": "level_stretch", "start_s": 0.1, "end_s": 0.4},
            {"type": "soften_joins", "note_ids": ["n0003"]},
            {"type": "rub_out", "start_s": 0.6, "end_s": 0.8},
        )]  # fmt: skip
        for change in reversed(changes):
            self.content = apply_to_content(self.content, change, backwards=True)
        self.assertEqual(self.content, first)
        self.assertEqual(apply_change(first.notes, {}), dict(first.notes))
