"""Comps: which version sounds when, how it is joined, what is refused, and what a print of it holds."""

import numpy as np
import soundfile as sf

from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.document.items.comps import Choice, changed_choices, chosen_at, spans_of, with_spans
from glass_thread.core.signal.errors import NotFoundError, ParameterError, StaleEditError
from glass_thread.core.signal.types import HOP_S, Floats
from glass_thread.services.history.comps import comp_at, list_comps, make_comp, version_from_comp
from glass_thread.services.history.edit import Done, edit, jump, redo, undo
from glass_thread.services.history.versions import list_versions, make_version, switch_version
from glass_thread.services.prints.printing import print_summary, request_print
from glass_thread.services.sound.take import CompTake
from glass_thread.services.work.here import run_task
from glass_thread.store.records import Version
from tests.services.case import SongCase, TakeCase
from tests.signals import REAL_TAKE


class ChoicesTest(TakeCase):
    """The partition itself; each row is what was there, what is chosen, and what is there after it."""

    def test_stretches_are_cut_and_alike_neighbours_become_one(self) -> None:
        a, b = ("va", "s1"), ("vb", "s2")
        whole = {"c1": Choice("c1", 0.0, *a)}
        cases = [
            ([(1.0, 2.0, b)], [(0.0, a), (1.0, b), (2.0, a)]),
            ([(1.0, 2.0, b), (2.0, 3.0, b)], [(0.0, a), (1.0, b), (3.0, a)]),
            ([(1.0, float("inf"), b)], [(0.0, a), (1.0, b)]),
            ([(0.0, 2.0, b)], [(0.0, b), (2.0, a)]),
            ([(1.0, 2.0, a)], [(0.0, a)]),
            ([(1.0, 4.0, b), (2.0, 3.0, a)], [(0.0, a), (1.0, b), (2.0, a), (3.0, b), (4.0, a)]),
        ]
        for wanted, after in cases:
            made = with_spans(whole, wanted, [f"n{i}" for i in range(9)])
            self.assertEqual([(c.start_s, (c.version_id, c.step_id)) for c in made], after)
            self.assertEqual(len({c.id for c in made}), len(made))

    def test_where_two_sets_of_choices_differ(self) -> None:
        before = {"c1": Choice("c1", 0.0, "va", "s1")}
        after = {c.id: c for c in with_spans(before, [(1.0, 2.0, ("vb", "s2"))], ["n1", "n2"])}
        self.assertEqual(changed_choices(before, after), [(1.0, 2.0)])
        self.assertEqual(changed_choices(before, before), [])
        self.assertEqual(spans_of(after)[-1][:2], (2.0, float("inf")))


class CompCase(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        self.begin()

    def begin(self) -> None:
        """Tune everything, and make a comp in which Tuned sounds."""
        notes = list(self.now().content.notes)
        self.do(type="tune", note_ids=notes)
        self.do(type="move", note_ids=notes, cents=45)
        self.do(type="nudge", note_ids=notes[:1], values={"level_db": -4.0})
        self.sung, self.tuned = (version.id for version in list_versions(self.desk, self.track.id)[:2])
        self.comp = make_comp(self.desk, self.track.id, "Best of")

    def stands(self) -> Version:
        return list_comps(self.desk, self.track.id)[0]

    def on_comp(self, **operation: object) -> Done:
        return edit(self.desk, self.track.id, operation, base=self.stands().head_id, version_id=self.comp.id)

    def standing(self):
        return self.desk.at(self.track.id, self.stands().head_id)

    def sound(self, step: str | None = None) -> Floats:
        take = self.desk.take(self.desk.at(self.track.id, step or self.stands().head_id))
        return take.span(0, take.length)

    def recorded(self) -> Floats:
        source = self.desk.sound.source(self.track.audio_hash)
        return source.read(0, source.frames)

    def middle(self, number: int) -> float:
        """The middle of one of the notes."""
        return sum(list(self.now().content.notes.values())[number].span_s) / 2


class CompTest(CompCase):
    def test_it_begins_as_the_version_that_is_worked_on(self) -> None:
        np.testing.assert_array_equal(self.sound(), self.sound(self.head()))
        self.assertEqual(
            [choice.version_id for _, _, choice, _ in comp_at(self.desk, self.standing()).choices], [self.tuned]
        )
        self.assertEqual(len(list_versions(self.desk, self.track.id)), 2)

    def test_a_chosen_stretch_sounds_like_its_version_and_the_rest_like_the_other(self) -> None:
        at = self.middle(1)
        self.on_comp(type="choose", version_id=self.sung, start_s=at)
        sound, tuned = self.sound(), self.sound(self.head())
        source = self.recorded()
        border = comp_at(self.desk, self.standing()).borders[0]
        rate = self.track.sample_rate
        voiced = np.isfinite(self.now().analysis.contour.midi)
        begin = round(at / HOP_S)
        while voiced[begin]:
            begin += 1
        after = round((begin + 4) * HOP_S * rate)
        np.testing.assert_array_equal(sound[:, after:], source[:, after:])
        # Up to the border it is the version, but that its cycles are brought back into their place before it.
        first = next(iter(self.now().content.notes.values())).note
        here = slice(round(first.start_s / HOP_S) + 10, round(first.end_s / HOP_S) - 40)
        one, other = (track_f0(one[0], rate).midi[here] for one in (sound, tuned))
        self.assertLess(np.nanmax(np.abs(one - other)), 0.04)
        before = round((first.start_s - 0.05) * rate)
        np.testing.assert_array_equal(sound[:, :before], tuned[:, :before])
        self.assertTrue(border.clean)
        self.assertEqual(border.law, "equal gain")

    def test_inside_a_note_the_pitch_passes_over_and_no_sample_jumps(self) -> None:
        at = self.middle(1)
        self.on_comp(type="choose", version_id=self.sung, start_s=at)
        sound = self.sound()[0]
        rate = self.track.sample_rate
        read = track_f0(sound, rate).midi
        plans = [self.desk.plan(self.desk.at(self.track.id, step)) for step in (self.head(), self.root())]
        for plan, frames in zip(plans, (slice(-30, -12), slice(12, 30)), strict=True):
            here = slice(*(round(at / HOP_S) + edge for edge in (frames.start, frames.stop)))
            wanted = plan.contour.midi[here] + plan.correction[here]
            self.assertLess(100 * np.nanmedian(np.abs(read[here] - wanted)), 6.0)
        around = np.abs(np.diff(sound[round((at - 0.05) * rate) : round((at + 0.05) * rate)]))
        usual = np.abs(np.diff(sound[round((at - 0.25) * rate) : round((at - 0.1) * rate)]))
        self.assertLess(around.max(), 1.5 * usual.max())

    def root(self) -> str:
        return list_versions(self.desk, self.track.id)[0].head_id

    def test_a_span_is_that_slice_of_the_whole(self) -> None:
        for at in (0.4, self.middle(0), self.middle(1)):
            self.on_comp(type="choose", version_id=self.sung, start_s=at, end_s=at + 0.15)
        take = self.desk.take(self.standing())
        whole = take.span(0, take.length)
        fresh = CompTake(self.desk.sound, self.desk.sound.source(self.track.audio_hash),
                         self.standing().content.choices, self.plans())  # fmt: skip
        for begin, end in ((0, 5000), (20_000, 20_001), (30_000, 70_000), (take.length - 10, take.length)):
            np.testing.assert_array_equal(fresh.span(begin, end), whole[:, begin:end])

    def plans(self):
        steps = {choice.step_id for choice in self.standing().content.choices.values()}
        return {step: self.desk.plan(self.desk.at(self.track.id, step)) for step in steps}

    def test_steps_are_undone_redone_and_jumped_to(self) -> None:
        before = self.sound()
        done = self.on_comp(type="choose", version_id=self.sung, start_s=self.middle(0))
        after = self.sound()
        self.assertTrue((before != after).any())
        undo(self.desk, self.track.id, base=self.stands().head_id, version_id=self.comp.id)
        np.testing.assert_array_equal(self.sound(), before)
        with self.assertRaisesRegex(ParameterError, "nothing to undo"):
            undo(self.desk, self.track.id, base=self.stands().head_id, version_id=self.comp.id)
        redo(self.desk, self.track.id, base=self.stands().head_id, version_id=self.comp.id)
        np.testing.assert_array_equal(self.sound(), after)
        jump(self.desk, self.track.id, base=self.stands().head_id, to=self.comp.head_id, version_id=self.comp.id)
        np.testing.assert_array_equal(self.sound(), before)
        with self.assertRaises(StaleEditError):
            edit(self.desk, self.track.id, {"type": "choose", "version_id": self.sung},
                 base=str(done.step and done.step.id), version_id=self.comp.id)  # fmt: skip

    def test_air_comes_from_another_version_in_one_step(self) -> None:
        air = list(self.now().content.air.values())
        self.do(type="set_air", air_ids=[one.event.id for one in air], values={"muted": True})
        self.on_comp(type="catch_up")
        self.on_comp(type="choose_air", version_id=self.sung, kinds=["sibilant", "consonant", "breath"])
        sound, rate = self.sound(), self.track.sample_rate
        source = self.recorded()
        for one in air:
            a, b = (round(at * rate) for at in one.span_s)
            third = (b - a) // 3
            np.testing.assert_array_equal(sound[:, a + third : b - third], source[:, a + third : b - third])
        with self.assertRaisesRegex(ParameterError, "no air here"):
            self.on_comp(type="choose_air", version_id=self.sung, kinds=["sibilant", "consonant", "breath"])

    def test_strained_notes_come_from_where_they_have_least(self) -> None:
        gentle = make_version(self.desk, self.track.id, "Gentle", from_version=self.sung)
        notes = list(self.now().content.notes)
        self.do(type="set", note_ids=notes[1:2], values={"pull": 1.0, "target": "67"})
        self.on_comp(type="catch_up")
        self.on_comp(type="choose_least_strain", version_ids=[gentle.id], above=5.0)
        chosen = chosen_at(self.standing().content.choices, self.middle(1))
        self.assertEqual(chosen and chosen.version_id, gentle.id)

    def test_a_version_that_was_changed_leaves_the_comp_as_it_is_until_it_catches_up(self) -> None:
        before = self.sound()
        self.assertEqual(comp_at(self.desk, self.standing()).behind, [])
        self.do(type="nudge", note_ids=list(self.now().content.notes), values={"level_db": -6.0})
        np.testing.assert_array_equal(self.sound(), before)
        self.assertEqual(comp_at(self.desk, self.standing()).behind, [self.tuned])
        self.on_comp(type="catch_up")
        np.testing.assert_array_equal(self.sound(), self.sound(self.head()))

    def test_borders_move_between_their_neighbours(self) -> None:
        self.on_comp(type="choose", version_id=self.sung, start_s=0.5, end_s=1.0)
        names = [choice.id for _, _, choice, _ in comp_at(self.desk, self.standing()).choices]
        self.on_comp(type="move_border", choice_id=names[1], to_s=0.6)
        self.assertEqual(comp_at(self.desk, self.standing()).choices[1][0], 0.6)
        for choice, to_s, words in (
            (names[1], 1.2, "can go from"),
            (names[0], 0.1, "first choice"),
            ("c9", 1.0, "no border"),
        ):
            with self.assertRaisesRegex((ParameterError, NotFoundError), words):
                self.on_comp(type="move_border", choice_id=choice, to_s=to_s)

    def test_versions_do_not_choose_and_comps_do_not_edit(self) -> None:
        with self.assertRaisesRegex(ParameterError, "edit one of them"):
            self.on_comp(type="tune", note_ids=list(self.now().content.notes))
        with self.assertRaisesRegex(ParameterError, "Only a comp"):
            self.do(type="choose", version_id=self.sung)
        with self.assertRaisesRegex(ParameterError, "chooses among versions"):
            switch_version(self.desk, self.track.id, self.comp.id)
        with self.assertRaisesRegex(ParameterError, "a comp's"):
            make_version(self.desk, self.track.id, "No", from_step=self.comp.head_id)
        with self.assertRaisesRegex(ParameterError, "belongs to a comp"):
            jump(self.desk, self.track.id, base=self.head(), to=self.comp.head_id)
        with self.assertRaisesRegex(NotFoundError, "no such version"):
            self.on_comp(type="choose", version_id="nobody")
        with self.assertRaisesRegex(ParameterError, "20 ms"):
            self.on_comp(type="choose", version_id=self.sung, start_s=1.0, end_s=1.0)

    def test_a_version_begins_with_what_a_comp_chose(self) -> None:
        self.on_comp(type="choose", version_id=self.sung, start_s=self.middle(1) - 0.4)
        made = version_from_comp(self.desk, self.track.id, self.stands(), "From it")
        content = self.desk.at(self.track.id, made.head_id).content
        pulls = [edited.gesture.pull for edited in content.notes.values()]
        self.assertEqual(pulls[0], 1.0)
        self.assertEqual(pulls[-1], 0.0)
        self.assertEqual(list(content.notes), list(self.now().content.notes))
        switch_version(self.desk, self.track.id, made.id)
        self.do(type="tune", note_ids=list(content.notes)[:1])


class PrintTest(CompCase):
    def test_a_print_holds_what_is_heard_and_counts_what_differs(self) -> None:
        self.on_comp(type="choose", version_id=self.sung, start_s=self.middle(1))
        step = self.stands().head_id
        task = request_print(self.desk, self.track.id, {"bits": 32}, step_id=step)
        run_task(self.work, task.id)
        done = self.work.tasks.get(task.id)
        printed, rate = sf.read(self.work.audio.print_path(done.result["file"]), always_2d=True)
        np.testing.assert_allclose(printed.T, self.sound(step), atol=1e-7)
        summary, _info = print_summary(self.desk, self.desk.at(self.track.id, step))
        self.assertEqual(done.result["notes_changed"], summary.notes_changed)
        self.assertLess(summary.notes_changed, len(self.now().content.notes))
        self.assertEqual(done.result["shown_name"], f"{self.track.name} best of.wav")
        again = request_print(self.desk, self.track.id, {"bits": 32}, step_id=step)
        run_task(self.work, again.id)
        paths = [self.work.audio.print_path(self.work.tasks.get(one.id).result["file"]) for one in (task, again)]
        self.assertEqual(*(path.read_bytes() for path in paths))
        self.assertEqual(rate, self.track.sample_rate)


class OtherTimingTest(CompCase):
    def test_a_phrase_with_its_own_timing_is_joined_in_silence_and_a_displaced_version_is_led(self) -> None:
        """One version is slipped as a whole; a stretch of it lies where the other one has it."""
        notes = list(self.now().content.notes)
        slipped = make_version(self.desk, self.track.id, "Slipped", from_version=self.sung)
        edit(self.desk, self.track.id, {"type": "slip", "note_ids": notes, "by_ms": 40.0},
             base=slipped.head_id, version_id=slipped.id)  # fmt: skip
        first, last = (self.now().content.notes[notes[i]].note for i in (0, -1))
        self.on_comp(type="choose", version_id=slipped.id, start_s=first.start_s + 0.1, end_s=last.end_s - 0.1)
        state = comp_at(self.desk, self.standing())
        self.assertLess(max(border.apart_s for border in state.borders), 0.002)
        sound = self.sound()[0]
        rate = self.track.sample_rate
        source = self.recorded()[0]
        middle = round(self.middle(1) * rate)
        np.testing.assert_array_equal(sound[middle : middle + 3000], source[middle : middle + 3000])


class OwnRecordingTest(SongCase):
    def test_a_comp_of_a_real_voice(self) -> None:
        track = self.bring_in(REAL_TAKE)
        standing = self.desk.at(track.id)
        edit(self.desk, track.id, {"type": "tune_pass", "note_ids": list(standing.content.notes), "pull": 1.0},
             base=str(standing.step_id))  # fmt: skip
        sung = list_versions(self.desk, track.id)[0]
        comp = make_comp(self.desk, track.id, "Of a real voice")
        rng = np.random.default_rng(3)
        clean = 0
        for _ in range(20):
            note = list(standing.content.notes.values())[int(rng.integers(len(standing.content.notes)))].note
            at = float(rng.uniform(note.start_s, note.end_s))
            base = list_comps(self.desk, track.id)[0].head_id
            done = edit(self.desk, track.id, {"type": "choose", "version_id": sung.id, "start_s": at},
                        base=base, version_id=comp.id)  # fmt: skip
            state = comp_at(self.desk, self.desk.at(track.id, done.version.head_id))
            clean += all(border.clean for border in state.borders)
            undo(self.desk, track.id, base=done.version.head_id, version_id=comp.id)
        self.assertGreaterEqual(clean, 19)
