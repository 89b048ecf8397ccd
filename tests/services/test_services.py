import io
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
import soundfile as sf
from glass_thread.services.documents import TrackDocument, load_document
from glass_thread.services.tuned_sound import TunedSound, changed_spans

from glass_thread.core.signal.errors import AudioError, ConflictError, NotFoundError, ParameterError, StaleEditError
from glass_thread.formats.audio import read_audio
from glass_thread.formats.wav import write_wav
from glass_thread.services.edit import edit_track, preview_edit, redo, undo
from glass_thread.services.import_audio import import_audio
from glass_thread.services.print import request_print, summarise, write_print
from glass_thread.services.songs import change_song, create_song
from glass_thread.services.tasks import cancel_task, run_task, take_up_again
from glass_thread.services.tune_passes import list_passes, remove_pass, save_pass
from glass_thread.services.worker import WORKS
from glass_thread.services.workspace import Workspace
from glass_thread.store.records import Track
from tests.signals import RATE, FolderCase, sung_short, write_short


class SongCase(FolderCase):
    """A workspace with one song."""

    def setUp(self) -> None:
        super().setUp()
        self.work: Workspace = self.workspace()
        self.song = create_song(self.work, "Test")

    def bring_in(self, path: Path, **settings: object) -> Track:
        with path.open("rb") as stream:
            track, task = import_audio(self.work, self.song.id, stream, path.name, **settings)
        run_task(self.work, task.id, WORKS)
        self.assertEqual(self.work.tasks.get(task.id).state, "done", self.work.tasks.get(task.id).message)
        return self.work.tracks.get(track.id)


class ImportTest(SongCase):
    def test_a_vocal_is_analysed_and_offers_its_key(self) -> None:
        track = self.bring_in(write_short(self.folder))
        self.assertTrue(track.ready)
        self.assertEqual(track.notes_found, 4)
        song = self.work.songs.get(self.song.id)
        self.assertNotEqual(song.scale, "chromatic")
        self.assertFalse(song.key_chosen)

    def test_a_chosen_key_is_never_overruled(self) -> None:
        change_song(self.work, self.song.id, {"tonic": 6, "scale": "lydian"})
        self.bring_in(write_short(self.folder))
        self.assertEqual(self.work.songs.get(self.song.id).scale, "lydian")

    def test_the_time_stamp_places_the_track(self) -> None:
        samples = np.round(sung_short()[1].audio * 32767).astype(np.int32)[np.newaxis]
        write_wav(self.folder / "s.wav", samples, RATE, bits=16, time_reference=RATE * 3610)
        track = self.bring_in(self.folder / "s.wav")
        self.assertAlmostEqual(track.offset_s, 10.0)
        self.assertEqual(track.time_reference, RATE * 3610)

    def test_duplicates_bad_roles_and_bad_files_change_nothing(self) -> None:
        path = write_short(self.folder)
        self.bring_in(path)
        with self.assertRaisesRegex(ConflictError, "already"):
            self.bring_in(path)
        with self.assertRaises(ParameterError):
            self.bring_in(path, role="drum")
        (self.folder / "bad.wav").write_text("no")
        with self.assertRaises(AudioError):
            self.bring_in(self.folder / "bad.wav")
        self.assertEqual(len(self.work.tracks.of_song(self.song.id)), 1)
        self.assertEqual(list((self.folder / "data" / "incoming").iterdir()), [])

    def test_a_file_found_bad_during_analysis_takes_its_track_out_again(self) -> None:
        x = np.zeros((RATE, 1))
        x[5] = np.nan
        sf.write(str(self.folder / "nan.wav"), x, RATE, subtype="FLOAT")
        with (self.folder / "nan.wav").open("rb") as stream:
            track, task = import_audio(self.work, self.song.id, stream, "nan.wav")
        run_task(self.work, task.id, WORKS)
        self.assertEqual(self.work.tasks.get(task.id).state, "failed")
        self.assertIn("not numbers", self.work.tasks.get(task.id).message)
        self.assertEqual(self.work.tracks.of_song(self.song.id), [])
        self.assertNotEqual(track.id, "")

    def test_cancel(self) -> None:
        with write_short(self.folder).open("rb") as stream:
            _track, task = import_audio(self.work, self.song.id, stream, "x.wav")
        cancel_task(self.work, task.id)
        run_task(self.work, task.id, WORKS)
        self.assertEqual(self.work.tasks.get(task.id).state, "cancelled")
        self.assertEqual(self.work.tracks.of_song(self.song.id), [])

    def test_unfinished_work_is_taken_up_again(self) -> None:
        with write_short(self.folder).open("rb") as stream:
            _track, task = import_audio(self.work, self.song.id, stream, "x.wav")
        self.work.tasks.change(task.id, state="running")  # as a killed worker leaves it
        self.assertEqual(take_up_again(self.work), 1)
        run_task(self.work, task.id, WORKS)
        self.assertEqual(self.work.tasks.get(task.id).state, "done")

    def test_silence_and_noise_have_no_notes(self) -> None:
        rng = np.random.default_rng(1)
        for name, x in (("silence.wav", np.zeros(RATE)), ("noise.wav", 0.1 * rng.standard_normal(RATE))):
            sf.write(str(self.folder / name), x, RATE)
            self.assertEqual(self.bring_in(self.folder / name).notes_found, 0)

    def test_several_voices_at_once_are_said_to_be_uncertain(self) -> None:
        from tests.signals import harmonic_tone

        chord = sum(harmonic_tone(np.full(2 * RATE, m), RATE) for m in (50.0, 57.3, 61.9, 66.1, 70.6))
        sf.write(str(self.folder / "chord.wav"), chord, RATE, subtype="FLOAT")
        track = self.bring_in(self.folder / "chord.wav")
        found = self.work.analyses.load(track.audio_hash)
        assert found is not None
        self.assertTrue(found.polyphonic)

    def test_odd_file_names_never_reach_the_disk(self) -> None:
        data = write_short(self.folder).read_bytes()
        track, _task = import_audio(self.work, self.song.id, io.BytesIO(data), "../../etc/passwd\x00.wav")
        self.assertEqual(track.name, "passwd")


class EditTest(SongCase):
    def setUp(self) -> None:
        super().setUp()
        change_song(self.work, self.song.id, {"tonic": 0, "scale": "major"})
        self.track = self.bring_in(write_short(self.folder))
        self.sound = TunedSound(self.work.audio)

    def tune(self, note_id: str = "n0001", revision: int = 0) -> TrackDocument:
        operation = {"type": "tune", "note_ids": [note_id]}
        return edit_track(self.work, self.track.id, base_revision=revision, operation=operation)

    def test_edit_undo_redo_survive_reopening(self) -> None:
        tuned = self.tune()
        self.assertEqual(load_document(self.work, self.track.id).notes, tuned.notes)
        self.assertFalse(
            any(not e.gesture.is_as_sung for e in undo(self.work, self.track.id, base_revision=1).notes.values())
        )
        again = redo(self.work, self.track.id, base_revision=2)
        self.assertEqual(again.notes, tuned.notes)
        self.assertEqual([s.label for s in again.steps], ["Tune to C4"])
        with self.assertRaisesRegex(ParameterError, "nothing to redo"):
            redo(self.work, self.track.id, base_revision=3)

    def test_reading_again_lasts_and_is_heard_by_the_marks(self) -> None:
        before = load_document(self.work, self.track.id).notes["n0004"].note
        again = {"type": "read_again", "note_ids": ["n0004"], "low_hz": 200, "high_hz": 1200}
        after = edit_track(self.work, self.track.id, base_revision=0, operation=again)
        self.assertAlmostEqual(after.notes["n0004"].note.centre_midi, before.centre_midi, delta=0.05)
        self.assertIsNotNone(after.notes["n0004"].note.reading)
        self.assertEqual(load_document(self.work, self.track.id).notes, after.notes)
        tuned = {"type": "tune", "note_ids": ["n0004"]}
        document = edit_track(self.work, self.track.id, base_revision=1, operation=tuned)
        self.assertTrue(self.sound.plan(document).correction.any())
        for low in ("low", None, float("nan"), 5):
            with self.assertRaises(ParameterError):
                edit_track(self.work, self.track.id, base_revision=2, operation={**again, "low_hz": low})

    def test_a_preview_changes_nothing_and_can_be_heard(self) -> None:
        document = load_document(self.work, self.track.id)
        tried, change = preview_edit(self.work, document, {"type": "tune", "note_ids": ["n0001"]})
        self.assertEqual(set(change), {"n0001"})
        self.sound.keep_preview(self.track.id, tried.content)
        plan = self.sound.plan(document, self.sound.preview(self.track.id))
        self.assertTrue(plan.correction.any())
        self.assertEqual(load_document(self.work, self.track.id).notes, document.notes)
        with self.assertRaisesRegex(NotFoundError, "no preview"):
            self.sound.preview("other")

    def test_the_document_as_it_was_after_a_step(self) -> None:
        self.tune()
        self.tune("n0002", revision=1)
        as_it_was = load_document(self.work, self.track.id, after_step=1).notes
        self.assertFalse(as_it_was["n0001"].gesture.is_as_sung)
        self.assertTrue(as_it_was["n0002"].gesture.is_as_sung)

    def test_tune_passes_are_kept_by_name(self) -> None:
        settings = dict(pull=0.5, drift=1.0, vibrato=1.0, rounding="scale", beyond_cents=0.0, keep_edited=True)
        save_pass(self.work, "Mine", settings)
        names = [row["name"] for row in list_passes(self.work)]
        self.assertEqual((names[-1], len(names)), ("Mine", 4))
        with self.assertRaisesRegex(ParameterError, "name of its own"):
            save_pass(self.work, "Clear lead", settings)
        with self.assertRaisesRegex(ParameterError, "cannot be removed"):
            remove_pass(self.work, "Clear lead")
        remove_pass(self.work, "Mine")
        self.assertEqual(len(list_passes(self.work)), 3)

    def test_stale_edits_are_refused(self) -> None:
        self.tune()
        with self.assertRaises(StaleEditError):
            self.tune("n0002", revision=0)

    def test_an_edit_that_changes_nothing_leaves_no_step(self) -> None:
        self.tune()
        self.assertEqual(self.tune(revision=1).track.revision, 1)

    def test_spans_of_the_tuned_sound_are_slices_of_the_whole(self) -> None:
        document = self.tune()
        plan = self.sound.plan(document)
        whole = self.sound.span(document, plan, 0, 10**9)
        rng = np.random.default_rng(3)
        for _ in range(15):
            a, b = sorted(rng.integers(0, whole.shape[1], 2))
            np.testing.assert_array_equal(TunedSound(self.work.audio).span(document, plan, a, b), whole[:, a:b])

    def test_changed_spans_cover_every_changed_sample(self) -> None:
        before = load_document(self.work, self.track.id)
        after = self.tune("n0003")
        spans = changed_spans(self.sound.plan(before), self.sound.plan(after))
        source = self.sound.source(self.track.audio_hash).audio
        out = self.sound.span(after, self.sound.plan(after), 0, 10**9)
        times = np.flatnonzero((out != source).any(axis=0)) / RATE
        self.assertGreater(len(times), 1000)
        self.assertTrue(all(any(a <= t <= b for a, b in spans) for t in times[::50]))

    def test_level_gestures(self) -> None:
        operation = {"type": "set", "note_ids": ["n0004"], "values": {"level_db": -6.0}}
        document = edit_track(self.work, self.track.id, base_revision=0, operation=operation)
        source = self.sound.source(self.track.audio_hash).audio
        out = self.sound.span(document, self.sound.plan(document), 0, 10**9)
        note = document.notes["n0004"].note
        middle = int((note.start_s + note.end_s) / 2 * RATE)
        np.testing.assert_allclose(
            out[0, middle : middle + 100], source[0, middle : middle + 100].astype(float) * 10 ** (-6 / 20)
        )
        outside = np.r_[0 : int(note.start_s * RATE), int(note.end_s * RATE) : source.shape[1]]
        np.testing.assert_array_equal(out[:, outside], source[:, outside])

    def test_prints(self) -> None:
        untouched = load_document(self.work, self.track.id)
        source, _ = read_audio(self.folder / "take.wav")
        summary = write_print(self.folder / "same.wav", self.sound, untouched)
        np.testing.assert_array_equal(read_audio(self.folder / "same.wav")[0], source)
        self.assertEqual(summary.untouched_share, 1.0)
        document = self.tune()
        for container, bits in (("wav", 16), ("wav", 24), ("wav", 32), ("flac", 16)):
            path = self.folder / f"p{bits}.{container}"
            summary = write_print(path, self.sound, document, container=container, bits=bits)
            samples, info = read_audio(path)
            differs = np.flatnonzero((samples != source).any(axis=0)) / RATE
            with self.subTest(container=container, bits=bits):
                self.assertEqual(info.bits, bits)
                self.assertAlmostEqual(summary.untouched_share, float((samples == source).all(axis=0).mean()))
                self.assertGreater(differs.min(), document.notes["n0001"].note.start_s - 0.02)
                self.assertLess(differs.max(), document.notes["n0002"].note.end_s + 0.02)
        self.assertLess(abs(summarise(self.sound, document).untouched_share - summary.untouched_share), 0.01)

    def test_prints_over_full_scale_are_not_clipped_silently(self) -> None:
        operation = {"type": "set", "note_ids": ["n0001", "n0003", "n0004"], "values": {"level_db": 12.0}}
        document = edit_track(self.work, self.track.id, base_revision=0, operation=operation)
        with self.assertRaisesRegex(ParameterError, "over full scale"):
            write_print(self.folder / "x.wav", self.sound, document, bits=16)
        self.assertFalse((self.folder / "x.wav").exists())
        summary = write_print(self.folder / "y.wav", self.sound, document, bits=32)
        self.assertGreater(summary.peak_dbfs, 0)
        lowered = write_print(self.folder / "z.wav", self.sound, document, bits=16, lower_db=summary.peak_dbfs + 0.2)
        self.assertLess(lowered.peak_dbfs, 0)

    def test_a_print_task_leaves_a_whole_file_or_none(self) -> None:
        task = request_print(self.work, self.track.id, {"container": "flac", "bits": None})
        run_task(self.work, task.id, WORKS)
        done = self.work.tasks.get(task.id)
        self.assertEqual(done.state, "done", done.message)
        self.assertTrue(self.work.audio.print_path(done.result["file"]).is_file())
        task = request_print(self.work, self.track.id, {"container": "wav", "bits": 16})
        with mock.patch("glass_thread.services.print.write_wav", side_effect=OSError("disk full")):
            run_task(self.work, task.id, WORKS)
        self.assertEqual(self.work.tasks.get(task.id).state, "failed")
        self.assertIn("disk full?", self.work.tasks.get(task.id).message)
        self.assertEqual(list((self.folder / "data" / "prints").glob("*.part")), [])


class SongSettingsTest(SongCase):
    def test_all_or_nothing(self) -> None:
        bad = [
            {"title": " "},
            {"tempo": 0},
            {"tempo": float("nan")},
            {"reference_hz": 900},
            {"scale": "blue"},
            {"beat_unit": 3},
            {"beats_per_bar": 99},
            {"bar_one_s": 1e9},
        ]
        for values in bad:
            with self.subTest(values=values), self.assertRaises(ParameterError):
                change_song(self.work, self.song.id, {"title": "New", **values})
        self.assertEqual(self.work.songs.get(self.song.id), self.song)


if __name__ == "__main__":
    unittest.main()
