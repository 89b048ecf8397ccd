import unittest

import numpy as np

from glass_thread.core.document.gestures import Gesture, as_read
from glass_thread.core.document.notes import EditedNote
from glass_thread.core.document.operations.rules.note_edits import lost_edits, propose_split, read_again
from glass_thread.core.signal.errors import GlassThreadError
from glass_thread.core.signal.types import HOP_S, Analysis, Contour, Note, Reading
from glass_thread.core.song.keys import make_tuning, one_key
from tests.signals import apply_change, apply_operation

KEY = one_key(make_tuning(0, "major"))


def recording(pieces: list[tuple[float | None, float]]) -> Analysis:
    """An analysis over steady pitches (None: silence) of given seconds; one note each voiced run."""
    midi = np.concatenate([np.full(round(s / HOP_S), np.nan if p is None else p) for p, s in pieces])
    level = np.where(np.isfinite(midi), -20.0, -80.0)
    contour = Contour(midi, np.ones(len(midi)))
    return Analysis(44_100, len(midi) * HOP_S, contour, (), (), (), (), 440.0, level)


def over(analysis: Analysis, *spans: tuple[float, float]) -> dict[str, EditedNote]:
    """A document with notes over spans of seconds."""
    found = {}
    for i, (start, end) in enumerate(spans):
        a, b = round(start / HOP_S), round(end / HOP_S)
        centre = float(np.nanmean(analysis.contour.midi[a:b]))
        found[f"n{i + 1:04d}"] = EditedNote(Note(f"n{i + 1:04d}", start, end, centre, 0.0, None, -20.0, 0))
    return found


TWO = recording([(60.0, 0.5), (63.0, 0.5), (None, 0.3), (65.0, 0.6)])


class SplitJoinTest(unittest.TestCase):
    document = over(TWO, (0.0, 1.0), (1.3, 1.9))

    def test_the_step_of_pitch_near_the_pointer_is_proposed(self) -> None:
        found = propose_split(self.document, TWO, "n0001", 0.48)
        self.assertAlmostEqual(found.at_s, 0.5, delta=0.006)
        self.assertAlmostEqual(found.left_midi, 60.0, delta=0.05)
        self.assertAlmostEqual(found.right_midi, 63.0, delta=0.05)

    def test_exact_takes_the_very_place(self) -> None:
        self.assertAlmostEqual(propose_split(self.document, TWO, "n0001", 0.42, exact=True).at_s, 0.42)

    def test_split_and_join_give_the_note_back(self) -> None:
        change = apply_operation(self.document, KEY, {"type": "split", "note_id": "n0001", "at_s": 0.48}, TWO)
        parted = apply_change(self.document, change)
        self.assertEqual([e.note.end_s for e in parted.values()][:2], [0.5, 1.0])
        self.assertEqual(dict(apply_change(parted, change, backwards=True)), self.document)
        ids = list(parted)[:2]
        whole = apply_change(parted, apply_operation(parted, KEY, {"type": "join", "note_ids": ids}, TWO))
        self.assertEqual((whole["n0001"].note.start_s, whole["n0001"].note.end_s), (0.0, 1.0))
        self.assertEqual(len(whole), 2)

    def test_what_cannot_be_done_is_said_and_changes_nothing(self) -> None:
        for operation in (
            {"type": "join", "note_ids": ["n0001"]},
            {"type": "split", "note_id": "n0009", "at_s": 0.4},
            {"type": "split", "note_id": "n0001", "at_s": float("nan")},
            {"type": "move_edge", "note_id": "n0001", "side": "end", "at_s": 0.01},
            {"type": "move_edge", "note_id": "n0001", "side": "middle", "at_s": 0.5},
            {"type": "make_note", "start_s": 1.02, "end_s": 1.2},
            {"type": "make_note", "start_s": 0.2, "end_s": 0.4},
            {"type": "move_octave", "note_ids": ["n0001"], "octaves": 5},
            {"type": "centre_here", "note_id": "n0001", "start_s": 0.3, "end_s": 0.305},
            {"type": "recut", "sensitivity": 99},
        ):
            with self.subTest(operation), self.assertRaises(GlassThreadError):
                apply_operation(self.document, KEY, operation, TWO)


class EdgeTest(unittest.TestCase):
    document = over(TWO, (0.0, 0.4), (0.4, 1.0), (1.3, 1.9))

    def moved(self, follow: bool, at_s: float) -> dict[str, EditedNote]:
        operation = {"type": "move_edge", "note_id": "n0001", "side": "end", "at_s": at_s, "follow": follow}
        return apply_change(self.document, apply_operation(self.document, KEY, operation, TWO))

    def test_the_neighbour_follows_or_stays(self) -> None:
        followed, left = self.moved(True, 0.3), self.moved(False, 0.3)
        self.assertEqual((followed["n0001"].note.end_s, followed["n0002"].note.start_s), (0.3, 0.3))
        self.assertEqual((left["n0001"].note.end_s, left["n0002"].note.start_s), (0.3, 0.4))

    def test_it_gives_way_when_run_over(self) -> None:
        self.assertEqual(self.moved(False, 0.5)["n0002"].note.start_s, 0.5)

    def test_air_and_notes_from_a_stretch(self) -> None:
        change = apply_operation(self.document, KEY, {"type": "make_air", "note_ids": ["n0003"]}, TWO)
        self.assertEqual(change.pop("n0003")[1], None)
        (_, made) = change.popitem()[1]
        self.assertAlmostEqual(made.event.start_s, 1.3)
        self.assertAlmostEqual(made.event.end_s, 1.9)
        less = {i: e for i, e in self.document.items() if i != "n0003"}
        made = apply_change(less, apply_operation(less, KEY, {"type": "make_note", "start_s": 1.3, "end_s": 1.9}, TWO))
        self.assertEqual(len(made), 3)
        self.assertAlmostEqual(list(made.values())[-1].note.centre_midi, 65.0, delta=0.02)


class ReadingTest(unittest.TestCase):
    def test_an_octave_moves_the_reading_and_nothing_asked(self) -> None:
        document = over(TWO, (1.3, 1.9))
        change = apply_operation(document, KEY, {"type": "move_octave", "note_ids": ["n0001"], "octaves": -1}, TWO)
        after = apply_change(document, change)["n0001"]
        self.assertAlmostEqual(after.note.centre_midi, 53.0, delta=0.02)
        self.assertTrue(after.gesture.is_as_sung)
        self.assertEqual(as_read(TWO.contour, [after.note]).midi[300], 53.0)
        self.assertEqual(TWO.contour.midi[300], 65.0)

    def test_another_reading_replaces_the_pitch_and_edges_keep_it(self) -> None:
        document = over(TWO, (1.3, 1.9))
        again = {"n0001": Reading(260, (53.0,) * 120)}
        after = apply_change(document, read_again(document, KEY, TWO, again, note_ids=["n0001"]))
        self.assertAlmostEqual(after["n0001"].note.centre_midi, 53.0, delta=0.02)
        edge = {"type": "move_edge", "note_id": "n0001", "side": "start", "at_s": 1.4}
        moved = apply_change(after, apply_operation(after, KEY, edge, TWO))["n0001"].note
        self.assertAlmostEqual(moved.centre_midi, 53.0, delta=0.02)
        nothing = {"n0001": Reading(260, (None,) * 120)}
        with self.assertRaisesRegex(GlassThreadError, "No pitch is found"):
            read_again(document, KEY, TWO, nothing, note_ids=["n0001"])

    def test_the_centre_is_taken_where_it_was_put(self) -> None:
        document = over(TWO, (0.0, 1.0))
        operation = {"type": "centre_here", "note_id": "n0001", "start_s": 0.7, "end_s": 0.9}
        after = apply_change(document, apply_operation(document, KEY, operation, TWO))["n0001"].note
        self.assertAlmostEqual(after.centre_midi, 63.0, delta=0.15)
        self.assertEqual(after.centre_span, (0.7, 0.9))


class RecutTest(unittest.TestCase):
    def test_alike_notes_keep_what_was_asked_and_losses_are_listed(self) -> None:
        document = over(TWO, (0.0, 1.0), (1.3, 1.9))
        document = {i: EditedNote(e.note, Gesture(pull=1.0, target_midi=64.0)) for i, e in document.items()}
        change = apply_operation(document, KEY, {"type": "recut", "sensitivity": 0.0}, TWO)
        after = apply_change(document, change)
        self.assertEqual(len(after), 3)
        self.assertEqual(after["n0002"], document["n0002"])
        self.assertEqual([e.note.id for e in lost_edits(change)], ["n0001"])
        self.assertEqual(dict(apply_change(after, change, backwards=True)), document)

    def test_more_sensitivity_never_finds_fewer(self) -> None:
        from tests.signals import analysed_short, apply_operation

        found = analysed_short()
        document = {n.id: EditedNote(n) for n in found.notes}
        counts = []
        for sensitivity in (-3.0, -1.0, 0.0, 1.0, 3.0):
            change = apply_operation(document, KEY, {"type": "recut", "sensitivity": sensitivity}, found)
            counts.append(len(apply_change(document, change)))
        self.assertEqual(counts, sorted(counts))
        self.assertEqual(counts[2], len(document))


class FuzzTest(unittest.TestCase):
    def test_undoing_everything_gives_the_first_document(self) -> None:
        rng = np.random.default_rng(12)
        document = first = over(TWO, (0.0, 0.4), (0.4, 1.0), (1.3, 1.9))
        changes = []
        for _ in range(120):
            ids = list(document)
            pick = [str(i) for i in rng.choice(ids, min(len(ids), int(rng.integers(1, 3))), replace=False)]
            at = float(rng.uniform(0, 1.9))
            operation = [
                {"type": "split", "note_id": pick[0], "at_s": at},
                {"type": "join", "note_ids": pick},
                {"type": "move_edge", "note_id": pick[0], "side": "start", "at_s": at},
                {"type": "tune", "note_ids": pick},
                {"type": "draw", "points": [[at, 61.0], [at + 0.3, 62.0]], "keep_fine": bool(rng.integers(2))},
                {"type": "rub_out", "start_s": at, "end_s": at + 0.2},
                {"type": "straighten", "note_ids": pick, "side": "out"},
                {"type": "soften_joins", "note_ids": pick},
                {"type": "nudge", "note_ids": pick, "values": {"drift": -0.3, "lean_in": 5.0}},
                {"type": "recut", "sensitivity": float(rng.uniform(-2, 2))},
            ][int(rng.integers(10))]
            try:
                change = apply_operation(document, KEY, operation, TWO)
            except GlassThreadError:
                continue
            changes.append(change)
            document = apply_change(document, change)
            starts = [e.note.start_s for e in document.values()]
            ends = [e.note.end_s for e in document.values()]
            self.assertTrue(all(b >= a - 1e-9 for a, b in zip(ends[:-1], starts[1:], strict=True)))
        last = document
        self.assertGreater(len(changes), 40)
        for change in reversed(changes):
            document = apply_change(document, change, backwards=True)
        self.assertEqual(dict(document), first)
        for change in changes:
            document = apply_change(document, change)
        self.assertEqual(dict(document), dict(last))
