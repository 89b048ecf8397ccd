import numpy as np

from glass_thread.core.plan.plan import changed_spans
from glass_thread.core.signal.errors import GlassThreadError, NotFoundError, ParameterError
from glass_thread.services.history.edit import redo, undo
from glass_thread.services.history.previews import Previews
from glass_thread.services.session.desk import Desk, Standing
from glass_thread.services.song.songs import change_song
from glass_thread.services.sound.sound import Sound
from tests.services.case import TakeCase
from tests.signals import RATE

WHOLE = 10**9


class EditCase(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        change_song(self.work, self.song.id, {"tonic": 0, "scale": "major"})
        self.source = self.desk.sound.source(self.track.audio_hash)
        self.sung = self.source.read(0, self.source.frames)

    def tune(self, note_id: str = "n0001") -> Standing:
        self.do(type="tune", note_ids=[note_id])
        return self.now()

    def heard(self, standing: Standing, begin: int = 0, end: int = WHOLE) -> np.ndarray:
        return self.desk.sound.span(self.source, self.desk.plan(standing), begin, end)


class EditTest(EditCase):
    def test_edit_undo_redo_survive_reopening(self) -> None:
        tuned = self.tune()
        self.assertEqual(Desk(self.work).at(self.track.id).content, tuned.content)
        undone = undo(self.desk, self.track.id, base=self.head())
        self.assertTrue(all(e.gesture.is_as_sung for e in undone.moved.after.content.notes.values()))
        redo(self.desk, self.track.id, base=self.head())
        again = Desk(self.work).at(self.track.id)
        self.assertEqual(again.content, tuned.content)
        labels = [step.label for step in self.work.history.path(self.head())]
        self.assertEqual(labels, ["Tune to C4", "As found"])

    def test_reading_again_lasts_and_is_heard_by_the_marks(self) -> None:
        before = self.now().content.notes["n0004"].note
        again = {"type": "read_again", "note_ids": ["n0004"], "low_hz": 200, "high_hz": 1200}
        self.do(**again)
        after = self.now().content.notes["n0004"].note
        self.assertAlmostEqual(after.centre_midi, before.centre_midi, delta=0.05)
        self.assertIsNotNone(after.reading)
        self.assertEqual(Desk(self.work).at(self.track.id).content, self.now().content)
        self.assertTrue(self.desk.plan(self.tune("n0004")).correction.any())
        for low in ("low", None, float("nan"), 5):
            with self.assertRaises(ParameterError):
                self.do(**{**again, "low_hz": low})
        with self.assertRaisesRegex(ParameterError, "no field “readings”"):
            self.do(**again, readings={"n0004": [0, [60.0]]})

    def test_a_note_drawn_by_hand_is_judged_by_what_was_drawn(self) -> None:
        def verdict():
            return self.desk.verdicts(self.now()).notes["n0004"]

        note = self.now().content.notes["n0004"].note
        target = verdict().target_midi
        self.do(type="draw", points=[[note.start_s, target + 0.5], [note.end_s, target + 0.5]])
        self.assertAlmostEqual(verdict().tuned_midi, target + 0.5, delta=0.05)
        self.assertIn("off centre", [flag.kind for flag in verdict().own])
        self.do(type="draw", points=[[note.start_s, target], [note.end_s, target]])
        self.assertAlmostEqual(verdict().tuned_midi, target, delta=0.05)
        self.assertNotIn("off centre", [flag.kind for flag in verdict().own])

    def test_a_preview_changes_nothing_can_be_heard_and_belongs_to_who_asked(self) -> None:
        previews = Previews(self.desk)
        before = self.now().content
        first = previews.try_out(self.track.id, {"type": "tune", "note_ids": ["n0001"]})
        second = previews.try_out(self.track.id, {"type": "tune", "note_ids": ["n0003"]})
        self.assertEqual((set(first.change), set(second.change)), ({"n0001"}, {"n0003"}))
        spans = []
        for tried in (first, second):
            standing = previews.standing(self.track.id, tried.id)
            differs = np.flatnonzero((self.heard(standing) != self.sung).any(axis=0)) / RATE
            spans.append((differs.min(), differs.max()))
        self.assertLess(spans[0][1], 1.45)
        self.assertGreater(spans[1][0], 1.5)
        self.assertEqual(self.now().content, before)
        for track, preview in ((self.track.id, "gone"), ("other", first.id)):
            with self.assertRaisesRegex(NotFoundError, "preview is gone"):
                previews.standing(track, preview)

    def test_the_track_as_it_was_at_a_step(self) -> None:
        step = self.do(type="tune", note_ids=["n0001"]).step
        self.do(type="tune", note_ids=["n0002"])
        as_it_was = self.desk.at(self.track.id, step.id).content.notes
        self.assertFalse(as_it_was["n0001"].gesture.is_as_sung)
        self.assertTrue(as_it_was["n0002"].gesture.is_as_sung)

    def test_a_failing_edit_changes_nothing(self) -> None:
        before, head = self.now().content, self.head()
        for bad in ({"type": "fly"}, {"type": "tune", "note_ids": ["x"]}, {"type": "join", "note_ids": ["n0001"]},
                    {"type": "set", "note_ids": ["n0001"], "values": {"pull": 9}}, None, []):  # fmt: skip
            with self.subTest(bad=bad), self.assertRaises(GlassThreadError):
                self.do(**bad) if isinstance(bad, dict) else self.do(type=bad)
        self.assertEqual((self.now().content, self.head()), (before, head))


class SoundTest(EditCase):
    def test_spans_of_the_tuned_sound_are_slices_of_the_whole(self) -> None:
        standing = self.tune()
        whole = self.heard(standing)
        rng = np.random.default_rng(3)
        for _ in range(15):
            a, b = sorted(rng.integers(0, whole.shape[1], 2))
            other = Sound(self.work.audio, self.work.analyses.load)
            span = other.span(other.source(self.track.audio_hash), self.desk.plan(standing), a, b)
            np.testing.assert_array_equal(span, whole[:, a:b])

    def test_changed_spans_cover_every_changed_sample(self) -> None:
        before = self.desk.plan(self.now())
        after = self.tune("n0003")
        spans = changed_spans(before, self.desk.plan(after))
        times = np.flatnonzero((self.heard(after) != self.sung).any(axis=0)) / RATE
        self.assertGreater(len(times), 1000)
        self.assertTrue(all(any(a <= t <= b for a, b in spans) for t in times[::50]))

    def test_an_answer_names_only_what_changed(self) -> None:
        done = self.do(type="tune", note_ids=["n0003"])
        spans = changed_spans(*done.moved.plans, done.moved.windows)
        note = done.moved.after.content.notes["n0003"].note
        self.assertTrue(all(b > note.start_s - 0.5 and a < note.end_s + 0.5 for a, b in spans))
        self.assertEqual(spans, changed_spans(*done.moved.plans))

    def test_level_gestures(self) -> None:
        self.do(type="set", note_ids=["n0004"], values={"level_db": -6.0})
        out = self.heard(self.now())
        note = self.now().content.notes["n0004"].note
        middle = int((note.start_s + note.end_s) / 2 * RATE)
        np.testing.assert_allclose(
            out[0, middle : middle + 100], self.sung[0, middle : middle + 100].astype(float) * 10 ** (-6 / 20)
        )
        outside = np.r_[0 : int(note.start_s * RATE), int(note.end_s * RATE) : self.sung.shape[1]]
        np.testing.assert_array_equal(out[:, outside], self.sung[:, outside])
