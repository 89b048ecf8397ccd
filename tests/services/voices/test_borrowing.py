"""Borrow: what is offered, how it is laid in, that it is edited, printed and undone like anything else."""

from dataclasses import replace

import numpy as np
import soundfile as sf

from glass_thread.core.analysis.pitch.f0 import track_f0
from glass_thread.core.measure.verdicts import judge
from glass_thread.core.plan.plan import build_plan, changed_spans
from glass_thread.core.signal.errors import GlassThreadError, NotFoundError, ParameterError
from glass_thread.core.signal.types import HOP_S, Floats
from glass_thread.demo.score import Performance, SungAir, SungNote, SungVoice
from glass_thread.services.history.comps import comp_at, list_comps, make_comp, version_from_comp
from glass_thread.services.history.edit import Done, edit, undo
from glass_thread.services.history.versions import list_versions, make_version, switch_version
from glass_thread.services.prints.printing import print_file, print_summary, request_print
from glass_thread.services.session.desk import Desk
from glass_thread.services.song.songs import change_track
from glass_thread.services.sound.take import CompTake
from glass_thread.services.voices.lending import offers
from glass_thread.services.work.here import run_task
from glass_thread.store.records import Track
from glass_thread.store.sweep import sweep
from tests.kept import sing
from tests.services.case import SongCase
from tests.signals import RATE, REAL_TAKE

LINE_S = 4.0


def line(at_s: float, offs: tuple[float, ...], *, longer: float = 0.0) -> tuple[list[SungNote], list[SungAir]]:
    """One line: “s-o, t-a, e (sung on), m-o”; `offs` in cents, its last note `longer` by some seconds."""
    notes = [
        SungNote(at_s + 0.5, at_s + 0.95, 62, "o", off=offs[0]),
        SungNote(at_s + 1.1, at_s + 1.6, 65, "a", off=offs[1]),
        SungNote(at_s + 1.6, at_s + 2.1, 67, "e", off=offs[2]),
        SungNote(at_s + 2.3, at_s + 3.0 + longer, 64, "i", off=offs[3], nasal="m"),
    ]
    air = [
        SungAir("sibilant", "s", at_s + 0.37, at_s + 0.5, -26.0),
        SungAir("consonant", "t", at_s + 1.02, at_s + 1.1, -28.0),
    ]
    return notes, air


def sung_twice(*, voice: SungVoice | None = None, seed: int = 3, late: float = 0.0) -> Performance:
    """The line, and the line again with other faults."""
    first, air = line(late, (0.0, -45.0, 10.0, 0.0))
    again, more = line(LINE_S + late, (20.0, 5.0, -20.0, 15.0), longer=0.4)
    made = Performance(8.5, (*first, *again), (*air, *more), seed=seed)
    return replace(made, voice=voice) if voice else made


class BorrowCase(SongCase):
    def setUp(self) -> None:
        super().setUp()
        self.track = self.sung("lead", sung_twice())

    def sung(self, name: str, performance: Performance) -> Track:
        path = self.folder / f"{name}.wav"
        sf.write(str(path), sing(performance, RATE).audio, RATE, subtype="PCM_16")
        return self.bring_in(path)

    def now(self):
        return self.desk.at(self.track.id)

    def do(self, **operation: object) -> Done:
        return edit(self.desk, self.track.id, operation, base=str(self.now().step_id))

    def borrow(self, note_id: str, from_id: str, track: Track | None = None, **more: object) -> Done:
        lender = track or self.track
        return self.do(type="borrow", note_ids=[note_id], from_track=lender.id, from_note_ids=[from_id], **more)

    def notes(self, phrase: int, desk: Desk | None = None, track: Track | None = None) -> list[str]:
        """The notes of a phrase, in order."""
        content = (desk or self.desk).at((track or self.track).id).content
        return [i for i, edited in content.notes.items() if edited.note.phrase == phrase]

    def sound(self) -> Floats:
        take = self.desk.take(self.now())
        return take.span(0, take.length)[0]

    def recorded(self, track: Track | None = None) -> Floats:
        source = self.desk.sound.source((track or self.track).audio_hash)
        return source.read(0, source.frames)[0]

    def laid(self):
        (borrow,) = self.now().content.borrows.values()
        return borrow

    def samples(self, *seconds: float) -> list[int]:
        return [round(at * RATE) for at in seconds]


class OffersTest(BorrowCase):
    def test_the_same_word_of_the_same_line_comes_first(self) -> None:
        first, again = self.notes(0), self.notes(1)
        self.assertEqual((len(first), len(again)), (4, 4))
        for note_id, twin in zip(first, again, strict=True):
            found = offers(self.desk, self.now(), [note_id])
            self.assertEqual(found[0].note_ids, (twin,), [(one.name, one.likeness) for one in found])
            self.assertGreater(found[0].likeness, 0.6)
            self.assertNotIn(note_id, [i for one in found if one.track_id == self.track.id for i in one.note_ids])

    def test_several_notes_and_another_singer(self) -> None:
        other = self.sung("other", sung_twice(voice=SungVoice(formants=1.02, rd=1.4, breath_db=-24.0), late=0.2))
        found = offers(self.desk, self.now(), self.notes(0)[1:3])
        best = {one.track_id: one.note_ids for one in reversed(found)}
        self.assertEqual(best[self.track.id], tuple(self.notes(1)[1:3]))
        self.assertIn(set(best[other.id]), [set(self.notes(i, track=other)[1:3]) for i in (0, 1)])

    def test_words_that_are_the_same_count_and_pitch_out_of_reach_does_not(self) -> None:
        change_track(self.work, self.track.id, {"words": {"0": "So take  them", "1": "so take them"}})
        found = offers(self.desk, self.now(), self.notes(0)[:1])
        self.assertTrue(found[0].same_words)
        self.do(type="move", note_ids=self.notes(0)[:1], cents=1100)
        far = offers(self.desk, self.now(), self.notes(0)[:1])
        self.assertTrue(all(abs(one.semitones) <= 7.0 for one in far))
        self.assertNotIn(self.notes(1)[0], [i for one in far for i in one.note_ids])


class LaidInTest(BorrowCase):
    def test_only_the_word_changes_and_it_is_the_other_one_sample_for_sample(self) -> None:
        there = self.notes(1)[1]
        done = self.borrow(self.notes(0)[1], there, length="as there")
        laid, sound, recorded = self.laid(), self.sound(), self.recorded()
        self.assertEqual(len(sound), len(recorded))
        low, high = self.samples(*laid.span_s)
        np.testing.assert_array_equal(sound[: low - 1], recorded[: low - 1])
        np.testing.assert_array_equal(sound[high + 2 :], recorded[high + 2 :])
        a, b = self.samples(laid.start_s + 0.02, laid.end_s - 0.02)
        shift = round((laid.from_s - laid.start_s) * RATE)
        np.testing.assert_array_equal(sound[a:b], recorded[a + shift : b + shift])
        self.assertAlmostEqual(shift / RATE, LINE_S, delta=0.02)  # vowels lie on each other
        changed = changed_spans(*done.moved.plans, done.moved.windows)
        self.assertTrue(any(a <= laid.start_s and b >= laid.end_s for a, b in changed))

    def test_its_notes_air_and_edits_come_along(self) -> None:
        there = self.notes(1)[1]
        self.do(type="set", note_ids=[there], values={"level_db": -2.0, "vibrato": 0.5})
        lent = self.now().content.notes[there]
        before = self.now().content
        self.borrow(self.notes(0)[1], there)
        content = self.now().content
        (note_id,) = set(content.notes) - set(before.notes)
        note = content.notes[note_id]
        self.assertEqual((note.gesture.level_db, note.gesture.vibrato), (-2.0, 0.5))
        self.assertEqual((note.note.phrase, note.note.centre_midi), (0, lent.note.centre_midi))
        gone = before.notes[(set(before.notes) - set(content.notes)).pop()]
        self.assertEqual(note.span_s, gone.span_s)
        self.assertEqual(len(set(content.air) - set(before.air)), 1)  # the t before it
        self.assertEqual(len(content.air), len(before.air))
        undo(self.desk, self.track.id, base=str(self.now().step_id))
        self.assertEqual(self.now().content, before)

    def test_a_longer_word_is_stretched_to_its_place(self) -> None:
        self.borrow(self.notes(0)[3], self.notes(1)[3])
        laid = self.laid()
        self.assertGreater(len(laid.stretches), 0)
        here = self.now().content.notes[self.notes(0)[3]]
        self.assertAlmostEqual(here.note.end_s, 3.0, delta=0.05)
        found = track_f0(self.sound(), RATE)
        inside = slice(round((here.note.start_s + 0.1) / HOP_S), round((here.note.end_s - 0.1) / HOP_S))
        self.assertAlmostEqual(float(np.nanmedian(found.midi[inside])), 64.15, delta=0.045)
        kept = self.desk.plan(self.now()).contour.midi[inside]
        away = np.abs(found.midi[inside] - kept)  # by what brings the voice after it back into its place
        self.assertLess(float(np.nanmedian(away)), 0.03)
        self.assertLess(float(np.nanpercentile(away, 90)), 0.08)

    def test_it_is_tuned_and_moved_in_time_like_any_note(self) -> None:
        self.borrow(self.notes(0)[0], self.notes(1)[0])
        note_id = self.notes(0)[0]
        self.do(type="set", note_ids=[note_id], values={"target_midi": 62.0, "pull": 1.0})
        self.do(type="slip", note_ids=[note_id], by_ms=40.0)
        note = self.now().content.notes[note_id].note
        found = track_f0(self.sound(), RATE)
        inside = slice(round((note.start_s + 0.14) / HOP_S), round((note.end_s - 0.04) / HOP_S))
        self.assertAlmostEqual(float(np.nanmedian(found.midi[inside])), 62.0, delta=0.04)
        standing = self.now()
        again = build_plan(standing.analysis, standing.content, standing.keys)
        np.testing.assert_array_equal(self.desk.plan(standing).correction, again.correction)

    def test_no_jump_at_its_ends_and_a_span_is_a_slice_of_the_whole(self) -> None:
        for i in range(4):
            self.borrow(self.notes(0)[i], self.notes(1)[i])
        sound = self.sound()
        steps = np.abs(np.diff(sound))
        for laid in self.now().content.borrows.values():
            for at in self.samples(*laid.span_s):
                around = np.sort(steps[max(at - 2000, 0) : at + 2000])
                self.assertLessEqual(steps[at - 60 : at + 60].max(), 1.6 * around[-40])
        fresh = Desk(self.work)
        take = fresh.take(fresh.at(self.track.id))
        for begin in range(0, take.length, 70_001):
            np.testing.assert_array_equal(take.span(begin, begin + 5_000)[0], sound[begin : begin + 5_000])

    def test_a_word_that_would_run_past_the_end_of_the_recording_is_refused(self) -> None:
        path = self.folder / "cut.wav"
        recorded = self.recorded()
        last = self.now().content.notes[self.notes(1)[-1]].note
        sf.write(str(path), recorded[: self.samples(last.start_s, last.start_s + 0.14)[1]], RATE, subtype="PCM_24")
        cut = self.bring_in(path)
        here = list(self.desk.at(cut.id).content.notes)[-1]
        refused = 0
        for there in self.now().content.notes:
            operation = {"type": "borrow", "note_ids": [here], "from_track": self.track.id, "from_note_ids": [there],
                         "length": "as there"}  # fmt: skip
            standing = self.desk.at(cut.id)
            try:
                edit(self.desk, cut.id, operation, base=str(standing.step_id))
                undo(self.desk, cut.id, base=str(self.desk.at(cut.id).step_id))
            except ParameterError as error:
                refused += "before the recording ends" in str(error)
        self.assertGreater(refused, 0)

    def test_what_is_asked_for_beyond_the_other_recording_is_silence(self) -> None:
        self.borrow(self.notes(0)[1], self.notes(1)[1])
        laid, whole, lent = self.laid(), len(self.recorded()), self.desk.sound.lent
        shift = round((laid.from_s - laid.start_s) * RATE)
        for begin, end in ((-shift - 900, -shift - 400), (-shift - 500, -shift + 500), (whole - shift - 500, whole),
                           (whole - shift + 400, whole - shift + 900), (whole, whole)):  # fmt: skip
            for rate in (RATE, 48_000):
                with self.subTest(begin=begin, rate=rate):
                    samples = lent(laid, rate, 1, begin, end)
                    self.assertEqual(samples.shape[0], 1)
                    if rate == RATE:
                        self.assertEqual(samples.shape[1], end - begin)
                        outside = (np.arange(begin, end) + shift < 0) | (np.arange(begin, end) + shift >= whole)
                        self.assertEqual(float(np.abs(samples[0][outside]).max(initial=0.0)), 0.0)

    def test_from_another_take_of_another_rate(self) -> None:
        path = self.folder / "again.wav"
        sf.write(str(path), sing(sung_twice(seed=9), 48_000).audio, 48_000, subtype="PCM_24")
        other = self.bring_in(path)
        there = self.notes(1, track=other)[1]
        self.borrow(self.notes(0)[1], there, other)
        laid, sound = self.laid(), self.sound()
        self.assertIn("again", laid.name)
        found = track_f0(sound, RATE)
        inside = slice(round((laid.start_s + 0.2) / HOP_S), round((laid.end_s - 0.1) / HOP_S))
        self.assertAlmostEqual(float(np.nanmedian(found.midi[inside])), 65.05, delta=0.04)
        self.work.tracks.forget([other.id])
        sweep(self.work.database, self.work.folder)
        np.testing.assert_array_equal(self.fresh_sound(), sound)

    def fresh_sound(self) -> Floats:
        desk = Desk(self.work)
        take = desk.take(desk.at(self.track.id))
        return take.span(0, take.length)[0]

    def test_give_back(self) -> None:
        before = self.now().content
        for i in (1, 2):
            self.borrow(self.notes(0)[i], self.notes(1)[i])
        self.do(type="give_back", borrow_ids=list(self.now().content.borrows)[:1])
        self.assertEqual(len(self.now().content.borrows), 1)
        self.do(type="give_back")
        self.assertEqual(
            {e.span_s for e in self.now().content.notes.values()}, {e.span_s for e in before.notes.values()}
        )
        np.testing.assert_array_equal(self.sound(), self.recorded())
        with self.assertRaisesRegex(ParameterError, "no borrow"):
            self.do(type="give_back")

    def test_what_is_refused_is_said_and_nothing_changes(self) -> None:
        first, again = self.notes(0), self.notes(1)
        cases = [
            ({"note_ids": first[:1], "from_note_ids": first[:1]}, "place itself"),
            ({"note_ids": [first[0], first[2]], "from_note_ids": again[:1]}, "follow each other"),
            ({"note_ids": first[:1], "from_note_ids": [again[0], again[2]]}, "follow each other"),
            ({"note_ids": first[:1], "from_note_ids": again}, "stretched up to"),
            ({"note_ids": first[:1], "from_note_ids": again[:3], "length": "as there"}, "no room"),
            ({"note_ids": first[:1], "from_note_ids": []}, "[Ss]elect"),
        ]
        before = self.now()
        for fields, said in cases:
            with self.assertRaisesRegex(ParameterError, said, msg=str(fields)):
                self.do(type="borrow", from_track=self.track.id, **fields)
        with self.assertRaises(NotFoundError):
            self.do(type="borrow", from_track="none", note_ids=first[:1], from_note_ids=again[:1])
        self.assertEqual(self.now().step_id, before.step_id)
        self.borrow(again[0], first[0])
        with self.assertRaisesRegex(ParameterError, "borrowed itself"):
            self.borrow(self.notes(0)[0], self.notes(1)[0])


class AroundItTest(BorrowCase):
    """Versions, comps, prints and histories of what is borrowed."""

    def test_a_print_holds_it_and_names_it(self) -> None:
        self.borrow(self.notes(0)[1], self.notes(1)[1])
        told, _info = print_summary(self.desk, self.now())
        task = request_print(self.desk, self.track.id, {"container": "wav"})
        run_task(self.work, task.id)
        done = self.work.tasks.get(task.id)
        self.assertEqual(done.state, "done", done.message)
        printed, _rate = sf.read(str(print_file(self.desk, self.work.prints.get(done.id))))
        recorded, laid = self.recorded(), self.laid()
        same = float((printed == recorded).mean())
        self.assertAlmostEqual(done.result["untouched_share"], same, places=6)
        self.assertAlmostEqual(done.result["borrowed_share"], laid.length_s * RATE / len(recorded), places=6)
        self.assertEqual(done.result["borrowed"], [laid.name])
        self.assertLess(abs(told.untouched_share - same), 0.01)
        self.assertEqual(done.result["moved_share"], 0.0)

    def test_a_comp_takes_it_from_the_version_that_has_it(self) -> None:
        tuned = list_versions(self.desk, self.track.id)[1]
        self.borrow(self.notes(0)[1], self.notes(1)[1])
        laid, whole = self.laid(), self.sound()
        plain = make_version(self.desk, self.track.id, "Plain", from_step=self.work.history.root_of(self.track.id))
        comp = make_comp(self.desk, self.track.id, "Best", version_id=plain.id)

        def choose(**operation: object) -> None:
            head = list_comps(self.desk, self.track.id)[0].head_id
            edit(self.desk, self.track.id, operation, base=head, version_id=comp.id)

        choose(type="choose", version_id=tuned.id, start_s=0.98, end_s=2.2)
        standing = self.desk.at(self.track.id, list_comps(self.desk, self.track.id)[0].head_id)
        take = self.desk.take(standing)
        self.assertIsInstance(take, CompTake)
        sound, recorded = take.span(0, take.length)[0], self.recorded()
        a, b = self.samples(laid.start_s + 0.02, laid.end_s)
        np.testing.assert_array_equal(sound[a:b], whole[a:b])
        np.testing.assert_array_equal(sound[b + RATE :], recorded[b + RATE :])
        self.assertTrue(all(border.length >= 0 for border in comp_at(self.desk, standing).borders))
        made = version_from_comp(self.desk, self.track.id, list_comps(self.desk, self.track.id)[0], "Whole")
        switch_version(self.desk, self.track.id, made.id)
        self.assertEqual(len(self.now().content.borrows), 1)
        np.testing.assert_array_equal(self.sound()[a:b], whole[a:b])

    def test_random_histories_are_what_is_worked_out_from_nothing(self) -> None:
        rng = np.random.default_rng(12)
        for turn in range(60):
            content = self.now().content
            notes, borrows = list(content.notes), list(content.borrows)
            one, two = (str(i) for i in rng.choice(notes, 2, replace=False))
            ways = [
                {"type": "borrow", "note_ids": [one], "from_track": self.track.id, "from_note_ids": [two]},
                {"type": "borrow", "note_ids": [one], "from_track": self.track.id, "from_note_ids": [two],
                 "length": "as there"},
                {"type": "give_back", "borrow_ids": borrows[:1]},
                {"type": "tune", "note_ids": [one]},
                {"type": "slip", "note_ids": [one], "by_ms": float(rng.integers(-40, 40))},
                {"type": "put_back", "note_ids": [one]},
            ]  # fmt: skip
            try:
                self.do(**ways[int(rng.integers(len(ways)))])
            except GlassThreadError:
                continue
            if turn % 6 == 0:
                self.check()
        self.check()
        fresh = Desk(self.work)
        self.assertEqual(fresh.at(self.track.id).content, self.now().content)

    def check(self) -> None:
        standing = self.now()
        plan, again = self.desk.plan(standing), build_plan(standing.analysis, standing.content, standing.keys)
        for name in ("correction", "formant", "level_db"):
            np.testing.assert_array_equal(getattr(plan, name), getattr(again, name), name)
        np.testing.assert_array_equal(plan.contour.midi, again.contour.midi)
        self.assertEqual((plan.giving, plan.borrows), (again.giving, again.borrows))
        self.assertEqual(self.desk.verdicts(standing), judge(standing.analysis, standing.content, again, standing.keys))


class RealVoiceTest(BorrowCase):
    """On a real recording: a word of it is heard in another place of it."""

    def setUp(self) -> None:
        SongCase.setUp(self)
        self.track = self.bring_in(REAL_TAKE)

    def test_offers_are_found_and_laid_in_without_a_jump(self) -> None:
        rate, before = self.track.sample_rate, self.recorded()
        taken = 0
        for note_id in list(self.now().content.notes)[::2]:
            if note_id not in self.now().content.notes:
                continue
            found = offers(self.desk, self.now(), [note_id])
            if not found:
                continue
            lent = {"from_track": found[0].track_id, "from_note_ids": list(found[0].note_ids)}
            try:
                self.do(type="borrow", note_ids=[note_id], **lent)
            except ParameterError:
                continue
            taken += 1
        self.assertGreater(taken, 2)
        sound = self.sound()
        steps = np.abs(np.diff(sound))
        inside = np.zeros(len(sound), dtype=bool)
        for laid in self.now().content.borrows.values():
            low, high = (round(at * rate) for at in laid.span_s)
            inside[low - 1 : high + 2] = True
            for at in (low, high):
                around = np.sort(steps[max(at - 3000, 0) : at + 3000])
                self.assertLessEqual(steps[at - 60 : at + 60].max(), 1.6 * around[-60])
        np.testing.assert_array_equal(sound[~inside], before[~inside])
