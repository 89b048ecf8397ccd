import unittest
from dataclasses import replace

import numpy as np

from glass_thread.core.document.content import Content
from glass_thread.core.document.gestures import Gesture, parts_of
from glass_thread.core.document.notes import EditedNote, current_target, current_targets
from glass_thread.core.document.operations.registry import describe, parse_operation
from glass_thread.core.plan.pitch.pitch_plan import note_correction
from glass_thread.core.signal.errors import GlassThreadError, NotFoundError, ParameterError
from glass_thread.core.signal.types import Note
from glass_thread.core.song.keys import make_tuning, one_key
from tests.signals import apply_change, apply_operation, contour_of, frames, pitch_correction, plan_over

KEY = one_key(make_tuning(0, "major"))


def sung(pitches: list[float], length: float = 0.5, gap: float = 0.0) -> tuple[np.ndarray, list[Note]]:
    """A contour of steady notes with rests of `gap` between, and the notes."""
    midi, notes = [], []
    at = 0.0
    for i, pitch in enumerate(pitches):
        midi += [pitch] * len(frames(length)) + [np.nan] * len(frames(gap))
        notes.append(Note(f"n{i}", at, at + length, pitch, 0.0, None, -20.0, 0))
        at += length + gap
    return np.array(midi), notes


def correct(midi: np.ndarray, notes: list[Note], gestures: dict[str, Gesture]) -> np.ndarray:
    contour = contour_of(midi)
    level = np.full(len(midi), -20.0)
    return pitch_correction(contour, notes, gestures, KEY, level)


class CorrectionTest(unittest.TestCase):
    def test_as_sung_is_zero_to_the_last_bit(self) -> None:
        midi, notes = sung([60.3, 62.1])
        self.assertFalse(correct(midi, notes, {}).any())
        self.assertFalse(correct(midi, notes, {n.id: Gesture(target_midi=64.0) for n in notes}).any())

    def test_pull_moves_the_centre_part_of_the_way(self) -> None:
        midi, notes = sung([60.4], gap=0.2)
        for pull in (0.25, 0.8, 1.0):
            change = correct(midi, notes, {"n0": Gesture(target_midi=60.0, pull=pull)})
            np.testing.assert_allclose(change[:100], -0.4 * pull, atol=1e-9)
            self.assertFalse(change[100:].any())

    def test_notes_sung_through_are_joined_without_a_step(self) -> None:
        midi, notes = sung([60.5, 62.0])
        change = correct(midi, notes, {"n0": Gesture(target_midi=60.0, pull=1.0)})
        self.assertAlmostEqual(change[50], -0.5)
        self.assertAlmostEqual(change[150], 0.0)
        self.assertLess(np.max(np.abs(np.diff(change))), 0.15)

    def test_towards_silence_nothing_glides(self) -> None:
        midi, notes = sung([60.5, 62.0], gap=0.1)
        change = correct(midi, notes, {"n0": Gesture(target_midi=60.0, pull=1.0)})
        self.assertAlmostEqual(change[99], -0.5)
        self.assertAlmostEqual(change[0], -0.5)

    def test_drift_vibrato_and_lean(self) -> None:
        t = frames(1.2)
        midi = 60 + 0.3 * (t - 0.6) + 0.5 * np.sin(2 * np.pi * 5.5 * t)
        note = Note("n0", 0.0, 1.2, 60.0, 30.0, None, -20.0, 0)
        parts = parts_of(contour_of(midi), note)
        still = midi + note_correction(parts, Gesture(drift=0.0, vibrato=0.0), 60.0)
        inner = still[20:-20]
        self.assertLess(100 * np.ptp(inner), 8)
        less = midi + note_correction(parts, Gesture(vibrato=0.3), 60.0)
        swing = less - 60 - 0.3 * (t - 0.6)
        self.assertAlmostEqual(np.ptp(swing[40:-40]) / 1.0, 0.3, delta=0.04)
        leaned = note_correction(parts, Gesture(lean_in=50.0), 60.0)
        self.assertAlmostEqual(leaned[0], 0.5, delta=0.01)
        self.assertAlmostEqual(leaned[-1], 0.0, delta=0.01)

    def test_level_stays_inside_the_note(self) -> None:
        midi, notes = sung([60.0, 62.0])
        louder = {"n0": EditedNote(notes[0]), "n1": EditedNote(notes[1], Gesture(level_db=-6.0))}
        change = plan_over(contour_of(midi), np.zeros(200), Content(louder), KEY).level_db
        self.assertFalse(change[:101].any())
        self.assertEqual(change[150], -6.0)
        self.assertEqual(change[199], 0.0)


def document(pitches: list[float]) -> dict[str, EditedNote]:
    return {note.id: EditedNote(note) for note in sung(pitches)[1]}


class OperationTest(unittest.TestCase):
    def test_tune_goes_to_the_scale(self) -> None:
        notes = document([60.3, 61.4])
        change = apply_operation(notes, KEY, {"type": "tune", "note_ids": ["n1"]})
        after = apply_change(notes, change)["n1"].gesture
        self.assertEqual((after.target_midi, after.pull), (62.0, 1.0))
        self.assertEqual(describe(parse_operation({"type": "tune", "note_ids": ["n1"]}), change), "Tune to D4")

    def test_typed_target(self) -> None:
        notes = document([60.3])
        for text, wanted in (("D4 +8", 62.08), ("61.5", 61.5)):
            operation = {"type": "set", "note_ids": ["n0"], "values": {"target": text}}
            after = apply_change(notes, apply_operation(notes, KEY, operation))["n0"].gesture
            self.assertAlmostEqual(after.target_midi, wanted)
            self.assertEqual(after.pull, 1.0)

    def test_pull_fixes_the_target_so_that_a_new_key_changes_no_sound(self) -> None:
        notes = document([61.3])
        operation = {"type": "set", "note_ids": ["n0"], "values": {"pull": 0.5}}
        after = apply_change(notes, apply_operation(notes, KEY, operation))["n0"].gesture
        self.assertEqual(after.target_midi, 62.0)

    def test_move_by_steps_and_cents(self) -> None:
        notes = document([60.3])
        up = apply_change(notes, apply_operation(notes, KEY, {"type": "move", "note_ids": ["n0"], "steps": 1}))
        self.assertEqual(up["n0"].gesture.target_midi, 62.0)
        again = apply_change(up, apply_operation(up, KEY, {"type": "move", "note_ids": ["n0"], "cents": -10}))
        self.assertAlmostEqual(again["n0"].gesture.target_midi, 61.9)

    def test_put_back_by_aspect(self) -> None:
        start = EditedNote(document([60.3])["n0"].note, Gesture(target_midi=62.0, pull=1.0, drift=0.2, lean_in=30.0))
        notes = {"n0": start}
        for aspect, left in (("centre", replace(start.gesture, target_midi=None, pull=0.0)), ("all", Gesture())):
            change = apply_operation(notes, KEY, {"type": "put_back", "note_ids": ["n0"], "aspect": aspect})
            self.assertEqual(apply_change(notes, change)["n0"].gesture, left)

    def test_tune_pass_keeps_edited_notes_and_the_limit(self) -> None:
        notes = document([60.3, 62.05, 64.4])
        notes["n2"] = replace(notes["n2"], gesture=Gesture(target_midi=65.0, pull=0.5))
        operation = {"type": "tune_pass", "note_ids": list(notes), "pull": 0.75, "beyond_cents": 20.0}
        change = apply_operation(notes, KEY, operation)
        self.assertEqual(list(change), ["n0"])

    def test_bad_edits_say_why_and_change_nothing(self) -> None:
        notes = document([60.3])
        before = dict(notes)
        cases = [
            (
                {"type": "set", "note_ids": ["n0"], "values": {"pull": 1.5}},
                r"Pull must be a number from 0 to 1; got 1.5 \(field “values.pull”\)",
            ),
            ({"type": "set", "note_ids": ["n0"], "values": {"pull": float("nan")}}, "from 0 to 1; got nan"),
            ({"type": "set", "note_ids": ["n0"], "values": {"target": "loud"}}, "not a pitch"),
            ({"type": "set", "note_ids": ["n0"], "values": {"target_midi": 500}}, "values.target_midi"),
            ({"type": "set", "note_ids": ["n0"], "values": {"colour": 1}}, "no value “colour”"),
            ({"type": "set", "note_ids": ["n0"], "values": {"pull": "much"}}, "got 'much'"),
            ({"type": "set", "note_ids": ["n0"], "values": {}}, "no value"),
            ({"type": "tune", "note_ids": []}, "selected"),
            ({"type": "tune", "note_ids": ["n9"]}, "no note"),
            ({"type": "tune", "note_ids": ["n0", "n0"]}, "twice"),
            (
                {"type": "tune", "note_ids": ["n0"], "rounding": "up"},
                "“rounding” must be one of: scale, semitone, free",
            ),
            ({"type": "shout", "note_ids": ["n0"]}, "“type” must be one of"),
            ({"type": "tune"}, "needs “note_ids”"),
            ({"type": "move", "note_ids": ["n0"], "cents": 1e9}, "“cents”"),
            ({"type": "put_back", "note_ids": ["n0"], "aspect": "soul"}, "aspect"),
        ]
        for operation, words in cases:
            with self.subTest(operation=operation), self.assertRaisesRegex(GlassThreadError, words):
                apply_operation(notes, KEY, operation)
        self.assertEqual(notes, before)
        with self.assertRaises(NotFoundError):
            apply_operation(notes, KEY, {"type": "tune", "note_ids": ["x"]})
        with self.assertRaises(ParameterError):
            apply_operation(notes, KEY, {})

    def test_random_edits_undo_to_the_start_and_redo_to_the_end(self) -> None:
        rng = np.random.default_rng(4)
        start = document([60.3, 62.4, 64.1, 65.7, 67.2])
        state, steps = dict(start), []
        for _ in range(120):
            ids = list(rng.choice(list(start), size=rng.integers(1, 5), replace=False))
            operation = [
                {"type": "tune"},
                {"type": "move", "steps": int(rng.integers(-2, 3))},
                {"type": "move", "cents": float(rng.uniform(-80, 80))},
                {"type": "set", "values": {"pull": float(rng.random()), "drift": float(2 * rng.random())}},
                {"type": "put_back", "aspect": "centre"},
                {"type": "tune_pass", "keep_edited": bool(rng.integers(2))},
            ][int(rng.integers(6))]
            change = apply_operation(state, KEY, {**operation, "note_ids": ids})
            state = apply_change(state, change)
            steps.append(change)
        end = dict(state)
        for change in reversed(steps):
            state = apply_change(state, change, backwards=True)
        self.assertEqual(state, start)
        for change in steps:
            state = apply_change(state, change)
        self.assertEqual(state, end)


class TargetsTest(unittest.TestCase):
    def test_all_at_once_are_those_of_one_by_one(self) -> None:
        pitches = list(60 + np.random.default_rng(4).uniform(-5, 12, 60))
        for gap in (0.0, 0.3):
            _, notes = sung(pitches, gap=gap)
            document = {
                n.id: EditedNote(n, Gesture(rounding=("scale", "semitone")[i % 2])) for i, n in enumerate(notes)
            }
            one_by_one = {i: current_target(document, e, KEY) for i, e in document.items()}
            self.assertEqual(current_targets(document, KEY), one_by_one)
        self.assertEqual(current_targets({}, KEY), {})
