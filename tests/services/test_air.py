"""Air and level in the sound of a document, over a stack, in prints and in loudness."""

import shutil
from dataclasses import replace

import numpy as np
import soundfile as sf
from glass_thread.services.documents import TrackDocument, load_document
from glass_thread.services.tuned_sound import TunedSound, changed_spans, of_air

from glass_thread.core.signal.errors import ParameterError
from glass_thread.services.edit import edit_track, undo
from glass_thread.services.loudness import track_loudness
from glass_thread.services.print import request_print, summarise, write_print
from glass_thread.services.stack import set_stack_breaths
from glass_thread.services.tasks import run_task
from glass_thread.services.worker import WORKS
from glass_thread.store import analysis_cache
from tests.services.test_services import SongCase
from tests.signals import RATE, sung_short, write_short


class AirCase(SongCase):
    def setUp(self) -> None:
        super().setUp()
        self.track = self.bring_in(write_short(self.folder))
        self.sound = TunedSound(self.work.audio)
        self.source = self.sound.source(self.track.audio_hash).audio
        self.document = load_document(self.work, self.track.id)

    def do(self, operation: str, **values) -> TrackDocument:
        self.document = edit_track(
            self.work, self.track.id, base_revision=self.document.track.revision,
            operation={"type": operation, **values},
        )  # fmt: skip
        return self.document

    def render(self) -> np.ndarray:
        plan = self.sound.plan(self.document)
        return self.sound.span(self.document, plan, 0, self.source.shape[1])

    def samples(self, start_s: float, end_s: float) -> slice:
        return slice(round(start_s * RATE), round(end_s * RATE))

    def event(self, kind: str):
        return next(e.event for e in self.document.content.air.values() if e.event.kind == kind)


class SoundTest(AirCase):
    def test_levels_are_exact_inside_and_nothing_changes_outside(self) -> None:
        for kind, db, fade in (("sibilant", -7.3, 0.02), ("breath", 4.0, 0.06), ("breath", -60.0, 0.06)):
            event = self.event(kind)
            self.do("set_air", air_ids=[event.id], values={"level_db": db})
            out = self.render()
            core = self.samples(event.start_s + fade, event.end_s - fade)
            ratio = np.sqrt(np.mean(out[:, core] ** 2) / np.mean(self.source[:, core] ** 2))
            outside = np.ones(self.source.shape[1], dtype=bool)
            outside[self.samples(event.start_s, event.end_s)] = False
            with self.subTest(kind, db=db):
                self.assertAlmostEqual(20 * np.log10(ratio), db, delta=0.01)
                np.testing.assert_array_equal(out[:, outside], self.source[:, outside])
            self.do("put_air_back", air_ids=[event.id])

    def test_a_muted_breath_is_silence_with_a_fade_and_no_click(self) -> None:
        event = self.event("breath")
        self.do("set_air", air_ids=[event.id], values={"muted": True})
        out = self.render()
        self.assertFalse(out[:, self.samples(event.start_s + 0.06, event.end_s - 0.06)].any())
        around = self.samples(event.start_s - 0.02, event.end_s + 0.02)
        steps = [np.abs(np.diff(x[0, around])).max() for x in (out, self.source)]
        self.assertLessEqual(steps[0], steps[1])

    def test_note_levels_are_exact_and_take_no_air_along(self) -> None:
        sibilant = self.event("sibilant")
        self.do("set", note_ids=["n0002", "n0003"], values={"level_db": 5.0})
        out = self.render()
        note = self.document.notes["n0003"].note
        core = self.samples(note.start_s + 0.1, note.end_s - 0.1)
        np.testing.assert_allclose(out[:, core], self.source[:, core] * 10 ** (5.0 / 20), rtol=1.2e-3)
        hiss = self.samples(sibilant.start_s, sibilant.end_s)
        np.testing.assert_array_equal(out[:, hiss], self.source[:, hiss])

    def test_air_alone_and_the_rest_add_up(self) -> None:
        plan = self.sound.plan(self.document)
        whole = self.render()
        parts = [of_air(whole, self.document.content, plan, RATE, 0, keep=keep) for keep in (True, False)]
        np.testing.assert_allclose(parts[0] + parts[1], whole, atol=1e-12)
        note = self.document.notes["n0001"].note
        self.assertFalse(parts[0][:, self.samples(note.start_s + 0.02, note.end_s - 0.02)].any())
        breath = self.event("breath")
        self.assertFalse(parts[1][:, self.samples(breath.start_s + 0.02, breath.end_s - 0.02)].any())

    def test_a_note_made_air_is_heard_as_recorded_and_listed_as_changed(self) -> None:
        self.do("tune", note_ids=["n0004"])
        tuned, before = self.render(), self.sound.plan(self.document)
        self.do("make_air", note_ids=["n0004"])
        np.testing.assert_array_equal(self.render(), self.source)
        spans = changed_spans(before, self.sound.plan(self.document))
        changed = np.flatnonzero((tuned != self.source).any(axis=0)) / RATE
        self.assertTrue(any(a <= changed.min() and b >= changed.max() for a, b in spans))


class PrintTest(AirCase):
    def test_air_and_gaps_count_and_silence_is_exact(self) -> None:
        self.do("set_breaths", values={"muted": True})
        self.do("clear_gaps")
        summary = summarise(self.sound, self.document)
        self.assertEqual(summary.notes_changed, 0)
        self.assertEqual(summary.air_changed, 1 + len(self.document.content.gaps))
        write_print(self.folder / "p.wav", self.sound, self.document)
        samples, _ = sf.read(str(self.folder / "p.wav"), dtype="int16")
        breath = self.event("breath")
        self.assertFalse(samples[self.samples(breath.start_s + 0.06, breath.end_s - 0.06)].any())

    def test_a_queued_print_holds_what_was_asked_for(self) -> None:
        self.do("tune", note_ids=["n0001"])
        task = request_print(self.work, self.track.id, {"container": "wav"})
        self.document = undo(self.work, self.track.id, base_revision=self.document.track.revision)
        run_task(self.work, task.id, WORKS)
        done = self.work.tasks.get(task.id)
        self.assertEqual((done.state, done.result["notes_changed"]), ("done", 1))

    def test_one_whose_state_was_edited_over_says_so(self) -> None:
        self.do("tune", note_ids=["n0001"])
        task = request_print(self.work, self.track.id, {"container": "wav"})
        self.document = undo(self.work, self.track.id, base_revision=self.document.track.revision)
        self.do("tune", note_ids=["n0002"])
        run_task(self.work, task.id, WORKS)
        failed = self.work.tasks.get(task.id)
        self.assertEqual(failed.state, "failed")
        self.assertIn("edited over", failed.message)


class LoudnessTest(AirCase):
    def test_a_lifted_track_is_louder_by_as_much(self) -> None:
        self.do("set", note_ids=list(self.document.notes), values={"level_db": 6.0})
        sung, tuned = track_loudness(self.sound, self.document)
        self.assertAlmostEqual(tuned.integrated_lufs - sung.integrated_lufs, 6.0, delta=0.4)
        self.assertTrue(0.0 < tuned.true_peak_dbtp - sung.true_peak_dbtp < 6.01)  # edges of notes are ramped

    def test_a_stretch_alone_and_nonsense(self) -> None:
        note = self.document.notes["n0004"].note
        part, _ = track_loudness(self.sound, self.document, note.start_s, note.end_s)
        whole, _ = track_loudness(self.sound, self.document)
        self.assertNotEqual(part.integrated_lufs, whole.integrated_lufs)
        self.assertIsNone(track_loudness(self.sound, self.document, 0.0, 0.1)[0].integrated_lufs)
        with self.assertRaises(ParameterError):
            track_loudness(self.sound, self.document, float("nan"))


class StackTest(AirCase):
    def test_doubles_lose_their_breaths_and_the_lead_keeps_its_own(self) -> None:
        with self.assertRaisesRegex(ParameterError, "no doubles"):
            set_stack_breaths(self.work, self.song.id, level_db=0.0, muted=True)
        quieter = 0.7 * sung_short(6)[1].audio
        sf.write(str(self.folder / "d.wav"), quieter, RATE)
        double = self.bring_in(self.folder / "d.wav", role="double")
        found = set_stack_breaths(self.work, self.song.id, level_db=0.0, muted=True)
        self.assertEqual([(change.name, change.changed) for change in found], [(double.name, 1)])
        air = load_document(self.work, double.id).content.air.values()
        self.assertEqual([e.muted for e in air if e.event.kind == "breath"], [True])
        lead = load_document(self.work, self.track.id)
        self.assertFalse(any(e.muted for e in lead.content.air.values()))
        self.assertEqual(len(lead.steps), 0)


class OldAnalysisTest(AirCase):
    def test_edits_keep_the_analysis_they_were_made_on(self) -> None:
        cache = self.work.analyses
        path = cache._path(self.track.audio_hash)
        old = cache._path(self.track.audio_hash, analysis_cache.ANALYSIS_VERSION - 1)
        with np.load(path) as data:
            rest = {name: data[name] for name in data.files if name != "high"}
        np.savez(old, **rest)
        path.unlink()
        analysis_cache._load.cache_clear()
        found = cache.load(self.track.audio_hash)
        self.assertEqual([n.id for n in found.notes], [n.id for n in self.document.analysis.notes])
        self.assertTrue((found.high_db == -120.0).all())
        shutil.copy(old, path)
        path.write_bytes(b"not an analysis")
        analysis_cache._load.cache_clear()
        self.assertIsNone(cache.load(self.track.audio_hash))
        self.assertEqual(replace(self.document.content, gaps={}), self.document.content)
