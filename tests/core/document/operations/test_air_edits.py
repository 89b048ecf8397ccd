"""Air events and gaps as part of what is edited; levels of the sound that come of it."""

import itertools
import unittest
from dataclasses import replace
from typing import get_args

import numpy as np

from glass_thread.core.document.content import (
    Content,
    EditedAir,
    Gap,
    air_owners,
    apply_to_content,
    as_found,
    owner_of,
)
from glass_thread.core.document.operations.operation import Needs
from glass_thread.core.document.operations.registry import OPERATIONS, describe, parse_operation
from glass_thread.core.plan.level_plan import SILENT_DB, level_gain
from glass_thread.core.signal.errors import GlassThreadError
from glass_thread.core.signal.types import AirEvent, Analysis, Contour, Note
from glass_thread.core.song.keys import make_tuning, one_key
from glass_thread.formats.plain_data import change_from_data, change_to_data
from tests.signals import apply_to, plan_over

KEY = one_key(make_tuning(0, "major"))
# Frames of 5 ms: noise, breath, note, sibilant, note, noise, consonant, note, noise.
PARTS = (("", 60), ("breath", 80), ("note", 120), ("sibilant", 24), ("note", 100), ("", 160), ("consonant", 12),
         ("note", 200), ("", 80))  # fmt: skip
LEVELS = {"": -75.0, "breath": -40.0, "note": -18.0, "sibilant": -24.0, "consonant": -34.0}


def scene() -> Analysis:
    """A track of two phrases, with everything that air edits meet."""
    midi, level, high, notes, air, at = [], [], [], [], [], 0
    for kind, n in PARTS:
        span = (at * 0.005, (at + n) * 0.005)
        if kind == "note":
            notes.append(Note(f"n{len(notes) + 1:04d}", *span, 60.0, 0.0, None, -18.0, int(at > 400)))
        elif kind:
            above = LEVELS[kind] - (1.0 if kind == "sibilant" else 15.0)
            air.append(AirEvent(f"a{len(air) + 1:04d}", kind, *span, LEVELS[kind], above))  # type: ignore[arg-type]
        midi += [60.0 if kind == "note" else np.nan] * n
        level += [LEVELS[kind]] * n
        high += [LEVELS[kind] - (1.0 if kind == "sibilant" else 15.0)] * n
        at += n
    contour = Contour(np.array(midi), np.ones(at))
    return Analysis(44_100, at * 0.005, contour, tuple(notes), tuple(air), (), (), 440.0, np.array(level),
                    high_db=np.array(high))  # fmt: skip


SCENE = scene()


def levels_of(content: Content) -> np.ndarray:
    """The level plan of a content."""
    return plan_over(SCENE.contour, SCENE.level_db, content, KEY).level_db


class ContentCase(unittest.TestCase):
    def setUp(self) -> None:
        self.content = as_found(SCENE)

    def do(self, operation: str, **values) -> Content:
        self.change = apply_to(self.content, KEY, {"type": operation, **values}, SCENE)
        self.content = apply_to_content(self.content, self.change)
        return self.content

    def refused(self, operation: str, **values) -> str:
        before = self.content
        with self.assertRaises(GlassThreadError) as caught:
            self.do(operation, **values)
        self.assertIs(self.content, before)
        return str(caught.exception)


class AirEditsTest(ContentCase):
    def test_level_silence_and_kind(self) -> None:
        self.do("set_air", air_ids=["a0002"], values={"level_db": -4.5})
        self.assertEqual(self.content.air["a0002"].level_db, -4.5)
        self.do("set_air", air_ids=["a0002", "a0001"], values={"muted": True})
        self.assertEqual([e.muted for e in self.content.air.values()], [True, True, False])
        self.do("set_air", air_ids=["a0003"], values={"kind": "sibilant"})
        self.assertEqual(self.content.air["a0003"].event.kind, "sibilant")
        self.do("put_air_back", air_ids=["a0001", "a0002"])
        self.assertTrue(all(e.is_as_sung for e in self.content.air.values()))

    def test_amounts_stay_in_range_and_unmute(self) -> None:
        self.do("set_air", air_ids=["a0001"], values={"level_db": -59.0, "muted": True})
        self.do("nudge_air", air_ids=["a0001", "a0002"], by_db=-3)
        self.assertEqual(self.content.air["a0001"], replace(self.content.air["a0001"], level_db=-60.0, muted=False))
        self.assertEqual(self.content.air["a0002"].level_db, -3.0)

    def test_nonsense_is_refused_and_changes_nothing(self) -> None:
        for name, values in (
            ("set_air", {"air_ids": [], "values": {"level_db": -3}}),
            ("set_air", {"air_ids": ["a0009"], "values": {"level_db": -3}}),
            ("set_air", {"air_ids": ["a0001", "a0001"], "values": {"level_db": -3}}),
            ("set_air", {"air_ids": ["a0001"], "values": {"level_db": 12.5}}),
            ("set_air", {"air_ids": ["a0001"], "values": {"level_db": float("nan")}}),
            ("set_air", {"air_ids": ["a0001"], "values": {"kind": "cough"}}),
            ("set_air", {"air_ids": ["a0001"], "values": {"muted": "yes"}}),
            ("set_air", {"air_ids": ["a0001"], "values": {}}),
            ("nudge_air", {"air_ids": ["a0001"], "by_db": float("inf")}),
            ("move_air_edge", {"air_id": "a0001", "side": "top", "at_s": 0.4}),
            ("move_air_edge", {"air_id": "a0001", "side": "end", "at_s": 0.3}),
            ("split_air", {"air_id": "a0001", "at_s": 0.305}),
            ("add_air", {"start_s": 0.4, "end_s": 0.5}),
            ("add_air", {"start_s": 0.0, "end_s": 0.2, "kind": "hum"}),
            ("soften_harsh", {"over_db": -1.0}),
            ("set_breaths", {"values": {"level_db": 40.0}}),
            ("set_breaths", {"values": {"louder": 1}}),
            ("clear_gaps", {"keep_before_s": float("nan")}),
            ("clear_gaps", {"level_db": 3.0}),
            ("fill_gaps_again", {}),
        ):
            with self.subTest(name, **values):
                self.assertTrue(self.refused(name, **values).endswith("."))

    def test_edges_push_neighbours_away(self) -> None:
        self.do("add_air", start_s=0.0, end_s=0.3, kind="consonant")
        self.do("move_air_edge", air_id="a0001", side="start", at_s=0.2)
        self.assertEqual(self.content.air["a0001"].event.start_s, 0.2)
        self.assertAlmostEqual(self.content.air["a0004"].event.end_s, 0.2)
        self.do("move_air_edge", air_id="a0001", side="start", at_s=0.0)
        self.assertNotIn("a0004", self.content.air)

    def test_levels_are_measured_again_where_the_event_is(self) -> None:
        self.do("move_air_edge", air_id="a0002", side="end", at_s=1.36)
        self.assertAlmostEqual(self.content.air["a0002"].event.level_db, -24.0)
        self.do("move_air_edge", air_id="a0002", side="start", at_s=1.27)
        self.assertGreater(self.content.air["a0002"].event.level_db, -22.0)

    def test_split_add_and_remove(self) -> None:
        self.do("set_air", air_ids=["a0001"], values={"level_db": -6})
        self.do("split_air", air_id="a0001", at_s=0.5)
        first, second = self.content.air["a0001"], self.content.air["a0004"]
        self.assertEqual((first.event.end_s, second.event.start_s, second.level_db), (0.5, 0.5, -6))
        self.do("remove_air", air_ids=["a0004"])
        self.do("add_air", start_s=0.4, end_s=0.7)
        self.assertEqual([e.event.start_s for e in self.content.air.values()][:2], [0.3, 0.5])

    def test_a_false_note_becomes_air_that_is_not_shifted(self) -> None:
        self.do("make_air", note_ids=["n0003"])
        made = self.content.air["a0004"]
        self.assertNotIn("n0003", self.content.notes)
        self.assertEqual((made.event.kind, made.event.voiced), ("breath", False))
        midi = plan_over(SCENE.contour, SCENE.level_db, self.content, KEY).contour.midi
        a, b = round(made.event.start_s / 0.005), round(made.event.end_s / 0.005)
        self.assertTrue(np.isnan(midi[a:b]).all())
        self.assertEqual(np.isfinite(midi).sum(), np.isfinite(SCENE.contour.midi).sum() - (b - a))

    def test_everything_survives_the_database_form_and_undo(self) -> None:
        first = self.content
        rng = np.random.default_rng(5)
        changes = []
        for _ in range(150):
            air, notes, at = list(self.content.air), list(self.content.notes), float(rng.uniform(0, 4))
            pick = [str(rng.choice(air))] if air else []
            operation = [
                {"type": "set_air", "air_ids": pick, "values": {"level_db": float(rng.uniform(-60, 12))}},
                {"type": "move_air_edge", "air_id": (pick or ["-"])[0], "side": "start", "at_s": at},
                {"type": "split_air", "air_id": (pick or ["-"])[0], "at_s": at},
                {"type": "add_air", "start_s": at, "end_s": at + 0.1},
                {"type": "remove_air", "air_ids": pick},
                {"type": "make_air", "note_ids": [str(rng.choice(notes))] if len(notes) > 2 else []},
                {"type": "make_note", "start_s": at, "end_s": at + 0.4},
                {"type": "soften_harsh", "over_db": 0.0, "to_db": -6.0},
                {"type": "set_breaths", "values": {"muted": bool(rng.integers(2))}},
                {"type": "clear_gaps", "keep_before_s": float(rng.uniform(0, 0.2))},
                {"type": "even_out", "note_ids": notes, "lift": 0.5, "hold": 1.0},
            ][int(rng.integers(11))]
            try:
                change = apply_to(self.content, KEY, operation, SCENE)
            except GlassThreadError:
                continue
            self.assertEqual(change_from_data(change_to_data(change)), change)
            if change:
                self.assertIn("·", describe(parse_operation(operation), change))
            changes.append(change)
            self.content = apply_to_content(self.content, change)
            ordered = list(self.content.air.values())
            self.assertTrue(all(a.event.end_s <= b.event.start_s + 1e-9 for a, b in itertools.pairwise(ordered)))
            self.assertTrue(np.isfinite(levels_of(self.content)).all())
        self.assertGreater(len(changes), 60)
        last = self.content
        for change in reversed(changes):
            self.content = apply_to_content(self.content, change, backwards=True)
        self.assertEqual(self.content, first)
        for change in changes:
            self.content = apply_to_content(self.content, change)
        self.assertEqual(self.content, last)

    def test_every_operation_has_a_label(self) -> None:
        self.assertTrue(all(one.label and one.needs in get_args(Needs) for one in OPERATIONS.values()))


class OwnersTest(ContentCase):
    def test_air_belongs_to_the_note_it_begins(self) -> None:
        self.assertEqual(air_owners(self.content), {"a0001": "n0001", "a0002": "n0002", "a0003": "n0003"})

    def test_or_to_the_one_it_ends_or_to_none(self) -> None:
        notes = [e.note for e in self.content.notes.values()]
        tail = AirEvent("a9", "sibilant", notes[1].end_s, notes[1].end_s + 0.1, -30.0)
        self.assertEqual(owner_of(tail, notes), "n0002")
        alone = AirEvent("a9", "consonant", 2.3, 2.4, -30.0)
        self.assertIsNone(owner_of(alone, notes))

    def test_all_at_once_are_those_of_one_by_one(self) -> None:
        rng = np.random.default_rng(3)
        kinds = ("sibilant", "consonant", "breath")
        starts = np.sort(rng.uniform(0.0, 4.0, 40))
        air = [AirEvent(f"a{i}", kinds[i % 3], t, t + rng.uniform(0.02, 0.3), -30.0) for i, t in enumerate(starts)]  # type: ignore[arg-type]
        content = replace(self.content, air={event.id: EditedAir(event) for event in air})
        notes = [e.note for e in content.notes.values()]
        self.assertEqual(air_owners(content), {event.id: owner_of(event, notes) for event in air})

    def test_a_voiced_one_belongs_to_the_note_it_lies_in(self) -> None:
        notes = [e.note for e in self.content.notes.values()]
        self.assertEqual(owner_of(AirEvent("a9", "sibilant", 0.9, 1.0, -30.0, voiced=True), notes), "n0001")


class LevelPlanTest(ContentCase):
    def plan(self) -> np.ndarray:
        return levels_of(self.content)

    def test_nothing_asked_nothing_changed(self) -> None:
        self.assertFalse(self.plan().any())

    def test_air_is_changed_inside_and_nowhere_else(self) -> None:
        self.do("set_air", air_ids=["a0002"], values={"level_db": -7.5})
        plan = self.plan()
        a, b = 260, 284
        self.assertTrue((plan[a + 3 : b - 3] == -7.5).all())
        self.assertFalse(plan[: a + 1].any() or plan[b - 1 :].any())

    def test_silence_fades_and_is_whole(self) -> None:
        self.do("set_breaths", values={"muted": True})
        gain = level_gain(self.plan())
        self.assertTrue((gain[72:128] == 0.0).all())
        self.assertTrue((np.diff(gain[60:72]) <= 0).all() and gain[61] > 0.9)
        self.assertTrue((gain[:61] == 1.0).all() and (gain[139:] == 1.0).all())
        self.assertLess(SILENT_DB, -140.0)

    def test_a_note_never_takes_air_along(self) -> None:
        self.do("join", note_ids=["n0001", "n0002"])
        self.do("set", note_ids=["n0001"], values={"level_db": 6.0})
        plan = self.plan()
        self.assertFalse(plan[260:284].any())
        self.assertTrue((plan[150:250] == 6.0).all() and (plan[295:370] == 6.0).all())

    def test_a_gap_on_a_lowered_breath_adds_up(self) -> None:
        self.do("set_breaths", values={"level_db": -6.0})
        self.content = replace(self.content, gaps={"g0001": Gap("g0001", 0.0, 0.7, -10.0, False)})
        self.assertAlmostEqual(self.plan()[100], -16.0)


class PassesTest(ContentCase):
    def test_only_harsh_sibilants_are_softened(self) -> None:
        quiet = [AirEvent(f"a{i}", "sibilant", 1.3, 1.4, -30.0, -31.0) for i in range(10, 14)]
        loud = AirEvent("a20", "sibilant", 1.3, 1.4, -20.0, -21.0)
        self.content = replace(self.content, air={e.id: EditedAir(e) for e in (*quiet, loud)})
        self.do("soften_harsh", over_db=6.0, to_db=3.0)
        self.assertEqual(list(self.change), ["a20"])
        self.assertAlmostEqual(self.content.air["a20"].level_db, -7.0)
        self.assertEqual(self.do("soften_harsh", over_db=6.0, to_db=3.0), self.content)
        self.assertEqual(self.change, {})

    def test_a_selection_is_kept_to(self) -> None:
        self.do("soften_harsh", over_db=0.0, to_db=-6.0, note_ids=["n0001"])
        self.assertEqual(self.change, {})
        self.do("soften_harsh", over_db=0.0, to_db=-6.0, note_ids=["n0002"])
        self.assertEqual(list(self.change), ["a0002"])
        self.do("set_breaths", note_ids=["n0003"], values={"level_db": -9})
        self.assertEqual(self.change, {})
        self.do("set_breaths", note_ids=["n0001"], values={"level_db": -9})
        self.assertEqual(list(self.change), ["a0001"])

    def test_gaps_keep_breath_consonant_and_tail(self) -> None:
        self.do("clear_gaps", keep_before_s=0.05, keep_after_s=0.1)
        spans = [(round(g.start_s / 0.005), round(g.end_s / 0.005)) for g in self.content.gaps.values()]
        np.testing.assert_allclose(spans, [(0, 58), (404, 534), (776, 836)], atol=3)
        self.do("clear_gaps", keep_before_s=0.05, keep_after_s=0.1)
        self.assertEqual(self.change, {})
        self.do("clear_gaps", keep_before_s=0.05, keep_after_s=0.1, keep_breaths=False)
        self.assertAlmostEqual(min(g.start_s for g in self.content.gaps.values()), 0.0)
        self.assertAlmostEqual(next(iter(self.content.gaps.values())).end_s, 0.65)
        self.do("fill_gaps_again")
        self.assertEqual(self.content.gaps, {})

    def test_a_soft_start_is_kept_unless_it_is_not_wanted(self) -> None:
        level = SCENE.level_db.copy()
        level[500:544] = -60.0  # rises softly out of the noise before the second phrase
        scene_two = replace(SCENE, level_db=level)
        for keep_soft, end in ((True, 490), (False, 534)):
            change = apply_to(
                self.content, KEY, {"type": "clear_gaps", "keep_soft": keep_soft, "keep_before_s": 0.05}, scene_two
            )
            ends = [round(after.end_s / 0.005) for _, after in change.values()]
            with self.subTest(keep_soft):
                self.assertAlmostEqual(ends[1], end, delta=4)

    def test_even_out_moves_by_the_share_and_converges(self) -> None:
        notes = {i: replace(e, note=replace(e.note, level_db=level))
                 for (i, e), level in zip(self.content.notes.items(), (-18.0, -24.0, -12.0), strict=True)}  # fmt: skip
        self.content = Content(notes)
        self.do("even_out", note_ids=list(notes), lift=0.0, hold=0.0)
        self.assertEqual(self.change, {})
        self.do("even_out", note_ids=list(notes), lift=0.5, hold=0.0)
        typical = -18.0  # of 0.5, 0.6 and 1 s, the middle by length
        self.assertEqual([e.gesture.level_db for e in self.content.notes.values()], [0.0, 3.0, 0.0])
        self.do("even_out", note_ids=list(notes), lift=1.0, hold=1.0)
        after = [e.note.level_db + e.gesture.level_db for e in self.content.notes.values()]
        np.testing.assert_allclose(after, typical, atol=0.01)
