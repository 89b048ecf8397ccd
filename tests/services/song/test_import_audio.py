import io

import numpy as np
import soundfile as sf

from glass_thread.core.signal.errors import AudioError, ConflictError, CutOffError, ParameterError
from glass_thread.core.song.keys import make_tuning
from glass_thread.formats.wave.wav import write_wav
from glass_thread.services.session.desk import Desk
from glass_thread.services.song.estimates.key_estimate import estimate_key
from glass_thread.services.song.import_audio import import_audio, placed_apart
from glass_thread.services.song.songs import change_song, create_song
from glass_thread.services.work.here import run_task
from glass_thread.services.work.tasks import cancel_task, take_up_again
from glass_thread.store.records import Track
from tests.services.case import SongCase, TakeCase
from tests.signals import RATE, harmonic_tone, sung_short, write_no_number, write_short


class ImportTest(SongCase):
    def test_a_vocal_is_analysed_and_its_key_is_offered_not_forced(self) -> None:
        track = self.bring_in(write_short(self.folder))
        self.assertTrue(track.ready)
        self.assertEqual(track.notes_found, 4)
        song = self.work.songs.get(self.song.id)
        self.assertEqual((song.scale, song.key_chosen), ("chromatic", False))
        offered = estimate_key(self.desk, track.id)
        self.assertLessEqual({0, 2, 4, 5}, set(make_tuning(offered.keys[0].tonic, offered.keys[0].scale).classes))
        self.assertFalse(offered.with_backing)
        self.assertAlmostEqual(sum(key.confidence for key in offered.keys), 1.0, delta=0.3)

    def test_a_backing_helps_to_find_the_key(self) -> None:
        track = self.bring_in(write_short(self.folder))  # C4, E4, D4, F4
        minor = sum(harmonic_tone(np.full(6 * RATE, midi), RATE, level=0.1) for midi in (50.0, 53.0, 57.0, 60.0, 58.0))
        sf.write(str(self.folder / "backing.wav"), minor, RATE)
        self.bring_in(self.folder / "backing.wav", role="backing")
        offered = estimate_key(self.desk, track.id)
        self.assertTrue(offered.with_backing)
        self.assertIn(
            10, make_tuning(offered.keys[0].tonic, offered.keys[0].scale).classes
        )  # the B♭ only the backing has

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

    def stamped(self, seconds: float) -> Track:
        """A take of its own whose stamp says when it began."""
        path = self.folder / f"at {seconds}.wav"
        samples = np.round(sung_short()[1].audio * (32767 - seconds % 1000)).astype(np.int32)[np.newaxis]
        write_wav(path, samples, RATE, bits=16, time_reference=round(RATE * seconds))
        return self.bring_in(path)

    def test_takes_are_placed_by_each_other_whatever_the_time_of_day(self) -> None:
        for first, second in ((3595.0, 3605.0), (3605.0, 3595.0), (36_000.0, 36_010.0), (86_390.0, 86_399.0)):
            with self.subTest(first=first):
                self.song = create_song(self.work, "Stamped")
                places = [self.stamped(at).offset_s for at in (first, second)]
                self.assertAlmostEqual(places[1] - places[0], second - first, places=4)
                self.assertEqual(self.work.songs.get(self.song.id).start_s, 3600.0 * (first // 3600))

    def test_a_take_that_lies_hours_off_is_put_at_the_beginning_and_that_is_said(self) -> None:
        near, far = self.stamped(36_000.0), self.stamped(7_200.0)
        song = self.work.songs.get(self.song.id)
        self.assertEqual((placed_apart(song, near), far.offset_s), ("", 0.0))
        self.assertIn("lies 8.0 h before the start of the song", placed_apart(song, far))

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
        with write_no_number(self.folder).open("rb") as stream:
            track, task = import_audio(self.work, self.song.id, stream, "nan.wav")
        run_task(self.work, task.id)
        self.assertEqual(self.work.tasks.get(task.id).state, "failed")
        self.assertIn("not numbers", self.work.tasks.get(task.id).message)
        self.assertEqual(self.work.tracks.of_song(self.song.id), [])
        self.assertNotEqual(track.id, "")

    def test_a_cut_off_file_is_taken_as_far_as_it_goes_only_when_asked(self) -> None:
        path = write_short(self.folder)
        whole, _ = sf.read(str(path))
        path.write_bytes(path.read_bytes()[: path.stat().st_size * 3 // 4])
        with self.assertRaises(CutOffError):
            self.bring_in(path)
        self.assertEqual(self.work.tracks.of_song(self.song.id), [])
        track = self.bring_in(path, as_far=True)
        kept, _ = sf.read(str(self.work.audio.source(track.audio_hash)))
        self.assertAlmostEqual(len(kept) / len(whole), 0.75, delta=0.01)
        np.testing.assert_array_equal(kept, whole[: len(kept)])
        self.assertEqual(list((self.folder / "data" / "incoming").iterdir()), [])

    def test_cancel(self) -> None:
        with write_short(self.folder).open("rb") as stream:
            _track, task = import_audio(self.work, self.song.id, stream, "x.wav")
        cancel_task(self.work, task.id)
        run_task(self.work, task.id)
        self.assertEqual(self.work.tasks.get(task.id).state, "cancelled")
        self.assertEqual(self.work.tracks.of_song(self.song.id), [])

    def test_unfinished_work_is_taken_up_again(self) -> None:
        with write_short(self.folder).open("rb") as stream:
            _track, task = import_audio(self.work, self.song.id, stream, "x.wav")
        self.work.tasks.change(task.id, state="running")  # as a killed worker leaves it
        self.assertEqual(take_up_again(self.work), 1)
        run_task(self.work, task.id)
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
        found = self.work.analyses.load(str(track.analysis_id))
        assert found is not None
        self.assertTrue(found.polyphonic)

    def test_odd_file_names_never_reach_the_disk(self) -> None:
        data = write_short(self.folder).read_bytes()
        track, _task = import_audio(self.work, self.song.id, io.BytesIO(data), "../../etc/passwd\x00.wav")
        self.assertEqual(track.name, "passwd")


class DamagedAnalysisTest(TakeCase):
    def test_a_damaged_or_missing_analysis_is_said_and_made_again_with_every_edit_kept(self) -> None:
        self.do(type="tune", note_ids=["n0001"])
        content = self.now().content
        path = next((self.folder / "data" / "analysis").iterdir())
        whole = path.read_bytes()
        half = whole[: len(whole) // 2]
        flipped = bytearray(whole)
        flipped[len(whole) // 3] ^= 0xFF
        for damaged in (None, b"not an analysis", half, bytes(flipped)):
            path.unlink() if damaged is None else path.write_bytes(damaged)
            desk = Desk(self.work)
            with self.subTest(size=len(damaged or b"")), self.assertRaisesRegex(AudioError, "being made again"):
                desk.at(self.track.id)
            with self.assertRaises(AudioError):  # asked for once, however often it is looked at
                desk.at(self.track.id)
            (task,) = [one for one in self.work.tasks.unfinished() if one.kind == "analyse"]
            run_task(self.work, task.id)
            self.assertEqual(self.work.tasks.get(task.id).state, "done")
            self.assertEqual(Desk(self.work).at(self.track.id).content, content)

    def test_temporary_files_of_an_interrupted_run_are_cleaned_at_start(self) -> None:
        data = self.folder / "data"
        left = [data / "incoming" / "x", data / "analysis" / "x.part", data / "prints" / "y.wav.part"]
        for path in left:
            path.write_bytes(b"half")
        self.work.audio.clean()
        self.assertFalse(any(path.exists() for path in left))
        self.assertEqual(self.now().content, Desk(self.work).at(self.track.id).content)
