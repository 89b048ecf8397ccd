"""Histories drawn over every operation that is declared: what is heard is what a fresh start would work out."""

import random

import numpy as np

from glass_thread.bench.hostile.draws import NOT_DRAWN, draw_operation
from glass_thread.core.document.operations.registry import OPERATIONS
from glass_thread.core.signal.errors import GlassThreadError
from glass_thread.services.history.edit import edit, redo, undo
from glass_thread.services.session.desk import Desk
from tests.services.case import TakeCase

SEEDS, STEPS = range(8), 16


class DrawnTest(TakeCase):
    def one_step(self, rng: random.Random) -> bool:
        """Do, undo or redo something; False when it was refused, which changes nothing."""
        before = self.now()
        base, turn = str(before.step_id), rng.random()
        try:
            if turn < 0.1:
                undo(self.desk, self.track.id, base=base)
            elif turn < 0.15:
                redo(self.desk, self.track.id, base=base)
            else:
                drawn = draw_operation(rng, before.content, before.analysis.duration_s)
                edit(self.desk, self.track.id, drawn, base=base)
        except GlassThreadError:
            self.assertEqual(self.now().content, before.content)
            return False
        return True

    def test_plan_verdicts_and_sound_are_those_of_a_fresh_start(self) -> None:
        done = 0
        for seed in SEEDS:
            rng = random.Random(seed)
            self.desk.verdicts(self.now())
            done += sum(self.one_step(rng) for _ in range(STEPS))
            fresh = Desk(self.work)
            live, again = self.now(), fresh.at(self.track.id)
            with self.subTest(seed=seed):
                self.assertEqual(live.content, again.content)
                plans = self.desk.plan(live), fresh.plan(again)
                for curve in ("correction", "level_db", "formant", "glaze"):
                    np.testing.assert_array_equal(*(getattr(plan, curve) for plan in plans), err_msg=curve)
                self.assertEqual(plans[0].stretches, plans[1].stretches)
                self.assertEqual(self.desk.verdicts(live).notes, fresh.verdicts(again).notes)
                takes = self.desk.take(live), fresh.take(again)
                np.testing.assert_array_equal(*(take.span(0, take.length) for take in takes))
        self.assertGreater(done, 40)

    def test_every_operation_is_drawn_but_those_that_need_another_track(self) -> None:
        rng, content = random.Random(1), self.now().content
        drawn = {draw_operation(rng, content, 4.0)["type"] for _ in range(2000)}
        edits = {name for name, one in OPERATIONS.items() if one.needs != "rows"}
        self.assertEqual(drawn, edits - set(NOT_DRAWN))
