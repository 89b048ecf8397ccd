"""Air and level in the sound of a track, over a stack, in prints and in loudness."""

import numpy as np

from glass_thread.core.plan.plan import changed_spans
from glass_thread.core.signal.errors import ParameterError
from glass_thread.services.prints.printing import print_summary
from glass_thread.services.report.loudness import track_loudness
from glass_thread.services.sound.sound import of_air
from tests.services.case import TakeCase
from tests.signals import RATE


class AirCase(TakeCase):
    def setUp(self) -> None:
        super().setUp()
        recording = self.desk.sound.source(self.track.audio_hash)
        self.source = recording.read(0, recording.frames)

    def render(self) -> np.ndarray:
        recording = self.desk.sound.source(self.track.audio_hash)
        return self.desk.sound.span(recording, self.desk.plan(self.now()), 0, recording.frames)

    def samples(self, start_s: float, end_s: float) -> slice:
        return slice(round(start_s * RATE), round(end_s * RATE))

    def event(self, kind: str):
        return next(e.event for e in self.now().content.air.values() if e.event.kind == kind)


class SoundTest(AirCase):
    def test_levels_are_exact_inside_and_nothing_changes_outside(self) -> None:
        for kind, db, fade in (("sibilant", -7.3, 0.02), ("breath", 4.0, 0.06), ("breath", -60.0, 0.06)):
            event = self.event(kind)
            self.do(type="set_air", air_ids=[event.id], values={"level_db": db})
            out = self.render()
            core = self.samples(event.start_s + fade, event.end_s - fade)
            ratio = np.sqrt(np.mean(out[:, core] ** 2) / np.mean(self.source[:, core] ** 2))
            outside = np.ones(self.source.shape[1], dtype=bool)
            outside[self.samples(event.start_s, event.end_s)] = False
            with self.subTest(kind, db=db):
                self.assertAlmostEqual(20 * np.log10(ratio), db, delta=0.01)
                np.testing.assert_array_equal(out[:, outside], self.source[:, outside])
            self.do(type="put_air_back", air_ids=[event.id])

    def test_a_muted_breath_is_silence_with_a_fade_and_no_click(self) -> None:
        event = self.event("breath")
        self.do(type="set_air", air_ids=[event.id], values={"muted": True})
        out = self.render()
        self.assertFalse(out[:, self.samples(event.start_s + 0.06, event.end_s - 0.06)].any())
        around = self.samples(event.start_s - 0.02, event.end_s + 0.02)
        steps = [np.abs(np.diff(x[0, around])).max() for x in (out, self.source)]
        self.assertLessEqual(steps[0], steps[1])

    def test_note_levels_are_exact_and_take_no_air_along(self) -> None:
        sibilant = self.event("sibilant")
        self.do(type="set", note_ids=["n0002", "n0003"], values={"level_db": 5.0})
        out = self.render()
        note = self.now().content.notes["n0003"].note
        core = self.samples(note.start_s + 0.1, note.end_s - 0.1)
        np.testing.assert_allclose(out[:, core], self.source[:, core] * 10 ** (5.0 / 20), rtol=1.2e-3)
        hiss = self.samples(sibilant.start_s, sibilant.end_s)
        np.testing.assert_array_equal(out[:, hiss], self.source[:, hiss])

    def test_air_alone_and_the_rest_add_up(self) -> None:
        plan = self.desk.plan(self.now())
        whole = self.render()
        parts = [of_air(whole, self.now().content, plan, RATE, 0, keep=keep) for keep in (True, False)]
        np.testing.assert_allclose(parts[0] + parts[1], whole, atol=1e-12)
        note = self.now().content.notes["n0001"].note
        self.assertFalse(parts[0][:, self.samples(note.start_s + 0.02, note.end_s - 0.02)].any())
        breath = self.event("breath")
        self.assertFalse(parts[1][:, self.samples(breath.start_s + 0.02, breath.end_s - 0.02)].any())

    def test_a_note_made_air_is_heard_as_recorded_and_listed_as_changed(self) -> None:
        self.do(type="tune", note_ids=["n0004"])
        tuned, before = self.render(), self.desk.plan(self.now())
        self.do(type="make_air", note_ids=["n0004"])
        np.testing.assert_array_equal(self.render(), self.source)
        spans = changed_spans(before, self.desk.plan(self.now()))
        changed = np.flatnonzero((tuned != self.source).any(axis=0)) / RATE
        self.assertTrue(any(a <= changed.min() and b >= changed.max() for a, b in spans))


class CountTest(AirCase):
    def test_air_and_gaps_count(self) -> None:
        self.do(type="set_breaths", values={"muted": True})
        self.do(type="clear_gaps")
        summary, _info = print_summary(self.desk, self.now())
        self.assertEqual(summary.notes_changed, 0)
        self.assertEqual(summary.air_changed, 1 + len(self.now().content.gaps))


class LoudnessTest(AirCase):
    def test_a_lifted_track_is_louder_by_as_much(self) -> None:
        self.do(type="set", note_ids=list(self.now().content.notes), values={"level_db": 6.0})
        sung, tuned = track_loudness(self.desk, self.now())
        self.assertAlmostEqual(tuned.integrated_lufs - sung.integrated_lufs, 6.0, delta=0.4)
        self.assertTrue(0.0 < tuned.true_peak_dbtp - sung.true_peak_dbtp < 6.01)  # edges of notes are ramped

    def test_a_stretch_alone_and_nonsense(self) -> None:
        note = self.now().content.notes["n0004"].note
        part, _ = track_loudness(self.desk, self.now(), note.start_s, note.end_s)
        whole, _ = track_loudness(self.desk, self.now())
        self.assertNotEqual(part.integrated_lufs, whole.integrated_lufs)
        self.assertIsNone(track_loudness(self.desk, self.now(), 0.0, 0.1)[0].integrated_lufs)
        with self.assertRaises(ParameterError):
            track_loudness(self.desk, self.now(), float("nan"))
