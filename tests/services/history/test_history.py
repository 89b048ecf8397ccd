"""Steps, branches, versions: whatever is done, in any order, what stands is what was asked for."""

from unittest import mock

import numpy as np

from glass_thread.core.document.content import Content
from glass_thread.core.measure.verdicts import judge
from glass_thread.core.plan.plan import build_plan
from glass_thread.core.signal.errors import GlassThreadError, NotFoundError, ParameterError, StaleEditError
from glass_thread.services.history.edit import edit, jump, redo, undo
from glass_thread.services.history.previews import Previews
from glass_thread.services.history.versions import (
    change_version,
    compare,
    list_versions,
    make_version,
    remove_version,
    restore_version,
    switch_version,
)
from glass_thread.services.session.desk import Desk
from tests.services.case import TakeCase

OTHER = np.random.default_rng(20)


def some_operation(rng: np.random.Generator, content: Content) -> dict:
    """An operation of any family, on things that are there."""
    notes, air = list(content.notes), list(content.air)
    some = [str(i) for i in rng.choice(notes, size=min(len(notes), 1 + int(rng.integers(2))), replace=False)]
    event = str(rng.choice(air)) if air else "a0001"
    span = content.notes[some[0]].span_s
    middle = sum(span) / 2
    ways = [
        {"type": "tune", "note_ids": some},
        {"type": "mean_so", "note_ids": some, "kinds": ["off centre"], "meant": bool(rng.random() < 0.7)},
        {"type": "set", "note_ids": some, "values": {"pull": float(rng.random()), "vibrato": float(rng.random())}},
        {
            "type": "set",
            "note_ids": some,
            "values": {"added_extent": 30.0, "formant_shift": float(rng.integers(-3, 3))},
        },
        {"type": "nudge", "note_ids": some, "values": {"level_db": float(rng.integers(-4, 4)), "lean_in": 20.0}},
        {"type": "move", "note_ids": some, "cents": float(rng.integers(-90, 90))},
        {"type": "put_back", "note_ids": some},
        {"type": "split", "note_id": some[0], "at_s": middle, "exact": True},
        {"type": "join", "note_ids": notes[:2]},
        {"type": "move_edge", "note_id": some[0], "side": "end", "at_s": span[1] - 0.03},
        {"type": "move_octave", "note_ids": some, "octaves": int(rng.choice([-1, 1]))},
        {"type": "draw", "points": [[middle - 0.1, 60.0], [middle + 0.1, 61.0]], "keep_fine": bool(rng.integers(2))},
        {"type": "set_air", "air_ids": [event], "values": {"level_db": float(rng.integers(-9, 3))}},
        {"type": "move_air_edge", "air_id": event, "side": "start", "at_s": float(rng.uniform(1.3, 1.5))},
        {"type": "make_air", "note_ids": some[:1]},
        {"type": "remove_air", "air_ids": [event]},
        {"type": "add_air", "start_s": middle, "end_s": middle + 0.05},
        {"type": "clear_gaps"},
        {"type": "fill_gaps_again"},
        {"type": "glaze", "start_s": span[0], "end_s": span[1] + 0.4, "values": {"settle_ms": 40.0}},
        {"type": "set_glaze", "values": {"tolerance_cents": float(rng.integers(0, 20))}},
        {"type": "remove_glaze"},
        {"type": "even_out", "note_ids": notes, "lift": 0.5, "hold": 0.5},
        {"type": "slip", "note_ids": some, "by_ms": float(rng.integers(-60, 60)), "follow": bool(rng.integers(2))},
        {"type": "shift_edge", "note_ids": some[:1], "by_ms": float(rng.integers(-80, 80)), "edge": "end"},
        {"type": "set_time", "note_ids": some[:1], "values": {"length": float(rng.uniform(0.8, 1.2))}},
        {"type": "put_back", "note_ids": some, "aspect": str(rng.choice(["timing", "start", "length"]))},
        {"type": "pin", "at_s": float(rng.uniform(0.1, 4.0))},
        {"type": "move_pins", "pin_ids": [], "by_ms": float(rng.integers(-20, 20))},
        {"type": "unpin"},
        {"type": "set", "note_ids": some, "values": {"movement": float(rng.random()), "scoop": float(rng.random())}},
        {"type": "set", "note_ids": some, "values": {"glide_ms": float(rng.integers(10, 300)), "fall": 0.4}},
        {"type": "set", "note_ids": some, "values": {"glide_ms": None, "within_cents": 8.0, "pull": 1.0}},
        {"type": "tune_pass", "note_ids": notes, "pull": float(rng.random()), "movement": float(rng.random())},
        {"type": "soften_joins", "note_ids": notes, "amount": float(rng.uniform(0.5, 2.0))},
        {"type": "rub_out", "start_s": middle - 0.08, "end_s": middle + 0.08},
        {"type": "leave_as_sung", "note_ids": some, "leave": bool(rng.integers(2))},
        {"type": "split_two_pitches"},
        {"type": "set_candidates", "note_ids": some[:1], "targets": ["C4", "D4 +10"]},
        {"type": "swap_candidates", "note_ids": notes},
        {"type": "level_stretch", "start_s": span[0] - 0.1, "end_s": middle, "level_db": float(rng.integers(-9, 3))},
        {"type": "set_level_stretch", "values": {"fade_ms": float(rng.integers(5, 200)), "level_db": -2.0}},
        {"type": "remove_level_stretch"},
        {"type": "read_again", "note_ids": some[:1], "low_hz": 80.0, "high_hz": 700.0},
    ]
    return ways[int(rng.integers(len(ways)))]


class RandomSequenceTest(TakeCase):
    def check(self, content: Content) -> None:
        """What is derived step by step is what is worked out from nothing."""
        standing = self.now()
        self.assertEqual(standing.content, content)
        plan, again = self.desk.plan(standing), build_plan(standing.analysis, content, standing.keys)
        for name in ("correction", "formant", "level_db"):
            np.testing.assert_array_equal(getattr(plan, name), getattr(again, name), name)
        np.testing.assert_array_equal(plan.contour.midi, again.contour.midi)
        self.assertEqual(plan.giving, again.giving)
        self.assertEqual(self.desk.verdicts(standing), judge(standing.analysis, content, again, standing.keys))

    def test_edits_undo_redo_branches_and_versions(self) -> None:
        rng = np.random.default_rng(4)
        first = self.now().content
        known: dict[str, Content] = {self.head(): first}
        steps = 0
        for turn in range(260):
            way = rng.random()
            version = self.work.history.version(str(self.work.tracks.get(self.track.id).version_id))
            try:
                if way < 0.66:
                    operation = some_operation(rng, self.now().content)
                    if turn % 3 == 0:  # what is taken after it was tried is taken over
                        Previews(self.desk).try_out(self.track.id, operation, step_id=version.head_id)
                    done = edit(self.desk, self.track.id, operation, base=version.head_id)
                    steps += done.step is not None
                elif way < 0.80:
                    done = undo(self.desk, self.track.id, base=version.head_id)
                elif way < 0.88:
                    done = redo(self.desk, self.track.id, base=version.head_id)
                elif way < 0.94:
                    done = jump(self.desk, self.track.id, base=version.head_id, to=str(rng.choice(list(known))))
                else:
                    made = make_version(self.desk, self.track.id, f"v{turn}", from_step=str(rng.choice(list(known))))
                    switch_version(self.desk, self.track.id, made.id)
                    continue
            except GlassThreadError:
                self.assertEqual(self.head(), version.head_id)
                continue
            content = done.moved.after.content
            self.assertEqual(known.setdefault(done.version.head_id, content), content)
            if turn % 12 == 0:
                self.check(content)
        self.assertGreater(steps, 90)
        self.check(self.now().content)
        self.look_again(first, known)

    def look_again(self, first: Content, known: dict[str, Content]) -> None:
        fresh = Desk(self.work)  # nothing at hand: from snapshots and by replay
        for step_id, content in known.items():
            self.assertEqual(fresh.at(self.track.id, step_id).content, content)
        last, undone = self.now().content, 0
        while self.work.history.step(self.head()).parent_id is not None:
            undo(self.desk, self.track.id, base=self.head())
            undone += 1
        self.assertEqual(self.now().content, first)
        for _ in range(undone):
            redo(self.desk, self.track.id, base=self.head())
        self.assertEqual(self.now().content, last)

    def test_what_was_tried_is_taken_without_being_worked_out_again(self) -> None:
        notes = list(self.now().content.notes)
        passed = {"type": "tune_pass", "note_ids": notes, "pull": 0.8, "movement": 0.5}
        other = {**passed, "pull": 0.7}
        Previews(self.desk).try_out(self.track.id, passed)
        with mock.patch("glass_thread.services.session.desk.changed_plan", side_effect=AssertionError("again")):
            with self.assertRaises(AssertionError):
                edit(self.desk, self.track.id, other, base=self.head())
            edit(self.desk, self.track.id, passed, base=self.head())
        self.check(self.now().content)

    def test_a_long_history_is_loaded_from_snapshots(self) -> None:
        for i in range(120):
            self.do(type="set", note_ids=["n0002"], values={"pull": 0.1 + (i % 9) / 10})
        step = self.work.history.step(self.head())
        kept, rest = self.work.history.trail(step)
        self.assertIsNotNone(kept)
        self.assertLessEqual(len(rest), 50)
        self.assertEqual(Desk(self.work).at(self.track.id).content, self.now().content)
        self.assertEqual([s.number for s in self.work.history.path(step.id, most=5)], [120, 119, 118, 117, 116])
        self.assertEqual([s.number for s in self.work.history.path(step.id, before=3)], [2, 1, 0])

    def test_a_damaged_snapshot_is_passed_over(self) -> None:
        for i in range(101):
            self.do(type="set", note_ids=["n0002"], values={"pull": 0.1 + (i % 9) / 10})
        with self.work.database.write() as session:
            session.connection().exec_driver_sql("UPDATE snapshot SET content = x'00'")
        self.assertEqual(Desk(self.work).at(self.track.id).content, self.now().content)


class StepTest(TakeCase):
    def test_a_stale_edit_of_the_same_changes_nothing_and_says_what_is_in_the_way(self) -> None:
        old = self.head()
        self.do(type="set", note_ids=["n0001"], values={"level_db": 2.0})
        self.do(type="tune", note_ids=["n0003"])
        before = self.now().content
        for mine, operation in (
            ("Tune", {"type": "tune", "note_ids": ["n0001", "n0002"]}),
            ("Join", {"type": "join", "note_ids": ["n0001", "n0002"]}),
            ("Move", {"type": "move", "note_ids": ["n0001"], "cents": 100.0}),
            ("Put back", {"type": "put_back", "note_ids": ["n0001"]}),
        ):
            with self.subTest(operation), self.assertRaises(StaleEditError) as raised:
                edit(self.desk, self.track.id, operation, base=old)
            self.assertEqual(raised.exception.current, self.head())
            self.assertRegex(str(raised.exception), f"“(Level|Tune).*was done elsewhere meanwhile.*“.*{mine}")
        self.assertEqual(self.now().content, before)

    def test_a_stale_edit_of_something_else_is_laid_on_top(self) -> None:
        old = self.head()
        self.do(type="tune", note_ids=["n0001"])
        self.do(type="pin", at_s=0.3)
        late = edit(self.desk, self.track.id, {"type": "tune", "note_ids": ["n0003"]}, base=old)
        edit(self.desk, self.track.id, {"type": "pin", "at_s": 0.9}, base=old)
        notes = self.now().content.notes
        self.assertEqual([notes[name].gesture.pull for name in ("n0001", "n0002", "n0003")], [1.0, 0.0, 1.0])
        self.assertEqual(len(self.now().content.pins), 2)
        self.assertEqual(late.moved.before.step_id, old)  # so that the answer brings whoever asked all the way
        self.assertEqual(late.version.head_id, late.step.id)
        fresh = Desk(self.work).at(self.track.id)
        self.assertEqual(fresh.content, self.now().content)

    def test_a_stale_edit_after_an_undo_elsewhere(self) -> None:
        self.do(type="tune", note_ids=["n0001"])
        old = self.head()
        undo(self.desk, self.track.id, base=old)
        edit(self.desk, self.track.id, {"type": "tune", "note_ids": ["n0003"]}, base=old)
        self.assertEqual(self.now().content.notes["n0001"].gesture.pull, 0.0)
        with self.assertRaises(StaleEditError):
            edit(self.desk, self.track.id, {"type": "nudge", "note_ids": ["n0001"], "values": {"pull": -0.5}}, base=old)

    def test_an_edit_that_changes_nothing_leaves_no_step(self) -> None:
        head = self.head()
        self.assertIsNone(self.do(type="put_back", note_ids=["n0001"]).step)
        self.assertEqual(self.head(), head)

    def test_an_edit_after_undo_begins_a_branch_and_the_old_one_stays(self) -> None:
        self.do(type="tune", note_ids=["n0001"])
        old = self.do(type="tune", note_ids=["n0002"]).step
        undo(self.desk, self.track.id, base=self.head())
        new = self.do(type="tune", note_ids=["n0003"]).step
        assert old is not None and new is not None
        self.assertEqual(old.parent_id, new.parent_id)
        self.assertNotEqual(old.line, new.line)
        history = self.work.history
        branches = history.branches(self.track.id, history.way_to(new.id), of_comps=False)
        self.assertEqual([(step.id, steps) for step, steps in branches], [(old.id, 1)])
        jump(self.desk, self.track.id, base=self.head(), to=old.id)
        branches = history.branches(self.track.id, history.way_to(old.id), of_comps=False)
        self.assertEqual([(step.id, steps) for step, steps in branches], [(new.id, 1)])
        self.assertEqual(self.now().content.notes["n0003"].gesture.pull, 0.0)
        with self.assertRaisesRegex(ParameterError, "nothing to redo"):
            redo(self.desk, self.track.id, base=self.head())

    def test_undo_at_the_root_and_strange_steps(self) -> None:
        with self.assertRaisesRegex(ParameterError, "nothing to undo"):
            undo(self.desk, self.track.id, base=self.head())
        with self.assertRaises(NotFoundError):
            jump(self.desk, self.track.id, base=self.head(), to="0" * 32)
        with self.assertRaises(NotFoundError):
            self.desk.at(self.track.id, "x")


class VersionTest(TakeCase):
    def test_two_versions_go_their_own_ways(self) -> None:
        sung, tuned = list_versions(self.desk, self.track.id)
        self.assertEqual((sung.name, sung.read_only, tuned.name), ("As sung", True, "Tuned"))
        self.do(type="tune", note_ids=["n0001"])
        other = make_version(self.desk, self.track.id, "  Less   of it ", note="for the bridge")
        self.assertEqual((other.name, other.note), ("Less of it", "for the bridge"))
        switch_version(self.desk, self.track.id, other.id)
        self.do(type="set", note_ids=["n0001"], values={"pull": 0.5})
        heads = [version.head_id for version in list_versions(self.desk, self.track.id)]
        self.assertEqual(len(set(heads)), 3)
        pulls = [self.desk.at(self.track.id, head).content.notes["n0001"].gesture.pull for head in heads]
        self.assertEqual(pulls, [0.0, 1.0, 0.5])
        found = compare(self.desk, self.track.id, heads[1], heads[2])
        self.assertEqual([one.note_id for one in found], ["n0001"])
        self.assertNotEqual(*found[0].tuned)
        self.assertEqual(compare(self.desk, self.track.id, heads[0], heads[0]), [])

    def test_as_sung_is_read_only(self) -> None:
        sung = list_versions(self.desk, self.track.id)[0]
        switch_version(self.desk, self.track.id, sung.id)
        with self.assertRaisesRegex(ParameterError, "As sung stays as it was recorded"):
            self.do(type="tune", note_ids=["n0001"])
        for change in (lambda: remove_version(self.desk, self.track.id, sung.id),
                       lambda: change_version(self.desk, self.track.id, sung.id, name="Mine")):  # fmt: skip
            with self.assertRaises(ParameterError):
                change()

    def test_from_any_step_and_removed_and_back(self) -> None:
        root = self.head()
        self.do(type="tune", note_ids=["n0001"])
        made = make_version(self.desk, self.track.id, "From the start", from_step=root)
        self.assertEqual(made.head_id, root)
        switch_version(self.desk, self.track.id, made.id)
        remove_version(self.desk, self.track.id, made.id)
        self.assertEqual(len(list_versions(self.desk, self.track.id)), 2)
        self.assertEqual(self.now().content.notes["n0001"].gesture.pull, 1.0)  # back to Tuned
        with self.assertRaisesRegex(ParameterError, "removed"):
            switch_version(self.desk, self.track.id, made.id)
        with self.assertRaisesRegex(ParameterError, "removed"):
            edit(self.desk, self.track.id, {"type": "tune", "note_ids": ["n0002"]}, base=root, version_id=made.id)
        restore_version(self.desk, self.track.id, made.id)
        self.assertEqual([v.name for v in list_versions(self.desk, self.track.id)][-1], "From the start")
        for name in ("", "  ", "x" * 61, "a\nb\x00"):
            with self.subTest(name=name), self.assertRaisesRegex(ParameterError, "name"):
                make_version(self.desk, self.track.id, name)
