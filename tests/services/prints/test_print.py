import errno
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
import soxr

from glass_thread.core.measure.loudness import measure_loudness
from glass_thread.core.signal.errors import NotFoundError, ParameterError
from glass_thread.formats.audio import read_audio
from glass_thread.formats.wave.wav import write_wav
from glass_thread.services.history.edit import undo
from glass_thread.services.prints.changed import changed_counts
from glass_thread.services.prints.mixing import request_mix
from glass_thread.services.prints.print_writer import PrintSummary, print_form, write_print
from glass_thread.services.prints.printing import (
    list_prints,
    print_summary,
    remove_print,
    request_print,
    request_prints,
)
from glass_thread.services.song.songs import change_song, change_track
from glass_thread.services.work.here import run_task
from tests.services.case import TakeCase
from tests.signals import RATE, REAL_TAKE


class PrintTest(TakeCase):
    def write(self, name: str, **form: Any) -> tuple[Path, PrintSummary]:
        """A print of the track as it stands."""
        path, standing = self.folder / name, self.now()
        source = self.desk.sound.source(self.track.audio_hash)
        info = self.desk.sound.info(self.track.audio_hash)
        blocks = self.desk.sound.blocks(source, self.desk.plan(standing))
        return path, write_print(
            path, info, blocks, print_form(info, **form), changed_counts(standing.content, self.desk.plan(standing))
        )

    def finished(self, task_id: str) -> Any:
        run_task(self.work, task_id)
        return self.work.tasks.get(task_id)

    def test_prints(self) -> None:
        source, _ = read_audio(self.folder / "take.wav")
        path, summary = self.write("same.wav")
        np.testing.assert_array_equal(read_audio(path)[0], source)
        self.assertEqual(summary.untouched_share, 1.0)
        self.do(type="tune", note_ids=["n0001"])
        notes = self.now().content.notes
        for container, bits in (("wav", 16), ("wav", 24), ("wav", 32), ("flac", 16)):
            path, summary = self.write(f"p{bits}.{container}", container=container, bits=bits)
            samples, info = read_audio(path)
            differs = np.flatnonzero((samples != source).any(axis=0)) / RATE
            with self.subTest(container=container, bits=bits):
                self.assertEqual(info.bits, bits)
                self.assertAlmostEqual(summary.untouched_share, float((samples == source).all(axis=0).mean()))
                self.assertGreater(differs.min(), notes["n0001"].note.start_s - 0.02)
                self.assertLess(differs.max(), notes["n0002"].note.end_s + 0.02)
        told, _info = print_summary(self.desk, self.now())
        self.assertLess(abs(told.untouched_share - summary.untouched_share), 0.01)

    def test_prints_over_full_scale_are_not_clipped_silently(self) -> None:
        self.do(type="set", note_ids=["n0001", "n0003", "n0004"], values={"level_db": 12.0})
        with self.assertRaisesRegex(ParameterError, "over full scale"):
            self.write("x.wav", bits=16)
        _, summary = self.write("y.wav", bits=32)
        self.assertGreater(summary.peak_dbfs, 0)
        _, lowered = self.write("z.wav", bits=16, lower_db=summary.peak_dbfs + 0.2)
        self.assertLess(lowered.peak_dbfs, 0)

    def test_a_print_task_leaves_a_whole_file_or_none(self) -> None:
        done = self.finished(request_print(self.desk, self.track.id, {"container": "flac", "bits": None}).id)
        self.assertEqual(done.state, "done", done.message)
        self.assertTrue(self.work.audio.print_path(done.result["file"]).is_file())
        task = request_print(self.desk, self.track.id, {"container": "wav", "bits": 16})
        with mock.patch(
            "glass_thread.store.files.audio_files.put_in_place", side_effect=OSError(errno.ENOSPC, "no room")
        ):
            failed = self.finished(task.id)
        self.assertEqual(failed.state, "failed")
        self.assertIn("disk is full", failed.message)
        self.assertEqual(list((self.folder / "data" / "prints").glob("*.part")), [])

    def test_a_queued_print_holds_what_stood_when_it_was_asked_for(self) -> None:
        self.do(type="tune", note_ids=["n0001"])
        task = request_print(self.desk, self.track.id, {"container": "wav"})
        undo(self.desk, self.track.id, base=self.head())
        self.do(type="tune", note_ids=["n0003"])
        self.do(type="tune", note_ids=["n0004"])
        done = self.finished(task.id)
        self.assertEqual((done.state, done.result["notes_changed"]), ("done", 1))
        printed, _ = read_audio(self.work.audio.print_path(done.result["file"]))
        source, _ = read_audio(self.folder / "take.wav")
        differs = np.flatnonzero((printed != source).any(axis=0)) / RATE
        self.assertLess(differs.max(), 1.5)

    def test_a_form_that_cannot_be_is_refused_before_it_is_queued(self) -> None:
        for wanted in ({"container": "flac", "bits": 32}, {"container": "mp3"}, {"bits": 12}, {"lower_db": -3}):
            with self.subTest(wanted), self.assertRaises(ParameterError):
                request_print(self.desk, self.track.id, wanted)
        self.assertEqual([t for t in self.work.tasks.unfinished() if t.kind == "print"], [])


class LayoutTest(TakeCase):
    def finished(self, **wanted: Any) -> tuple[np.ndarray, Any, Any]:
        """The samples of a finished print, what its file says, and the task."""
        task = request_print(self.desk, self.track.id, {"container": "wav", **wanted})
        run_task(self.work, task.id)
        done = self.work.tasks.get(task.id)
        self.assertEqual(done.state, "done", done.message)
        return *read_audio(self.work.audio.print_path(done.result["file"])), done

    def test_chosen_stretches_lie_at_their_place_with_fades_inside(self) -> None:
        source, _ = read_audio(self.folder / "take.wav")
        spans = [{"start_s": 0.9, "end_s": 1.4}, {"start_s": 0.2, "end_s": 0.5}]
        printed, info, _ = self.finished(spans=spans, fade_ms=20.0)
        first = round(0.2 * RATE)
        self.assertEqual((printed.shape[1], info.time_reference), (round(1.4 * RATE) - first, first))
        for start, end in ((0.2, 0.5), (0.9, 1.4)):
            a, b = round(start * RATE) - first, round(end * RATE) - first
            inner = slice(a + round(0.02 * RATE), b - round(0.02 * RATE))
            np.testing.assert_array_equal(printed[:, inner], source[:, inner.start + first : inner.stop + first])
            self.assertLess(np.abs(printed[:, [a, b - 1]]).max(), 0.01)
        self.assertFalse(printed[:, round(0.55 * RATE) - first : round(0.85 * RATE) - first].any())
        with self.assertRaisesRegex(ParameterError, "outside"):
            request_print(self.desk, self.track.id, {"spans": [{"start_s": 900.0, "end_s": 901.0}]})

    def test_another_rate_against_the_library_in_one_go(self) -> None:
        source, _ = read_audio(self.folder / "take.wav")
        printed, info, done = self.finished(sample_rate=48_000, bits=32)
        whole = soxr.resample(source[0], RATE, 48_000, quality="VHQ")
        self.assertEqual((info.sample_rate, printed.shape[1]), (48_000, round(source.shape[1] * 48_000 / RATE)))
        n = min(printed.shape[1], len(whole))
        np.testing.assert_allclose(printed[0, :n], whole[:n], atol=2e-6)
        self.assertEqual(done.result["untouched_share"], 0.0)
        own, info, _ = self.finished(sample_rate=RATE)
        np.testing.assert_array_equal(own, source)
        with self.assertRaisesRegex(ParameterError, "44100"):
            request_print(self.desk, self.track.id, {"sample_rate": 12_345})

    def test_loudness_and_true_peak_are_those_of_the_file(self) -> None:
        self.do(type="tune", note_ids=["n0001"])
        printed, info, done = self.finished(bits=32)
        measured = measure_loudness(printed, info.sample_rate)
        self.assertAlmostEqual(done.result["integrated_lufs"], measured.integrated_lufs, places=2)
        self.assertAlmostEqual(done.result["true_peak_dbtp"], measured.true_peak_dbtp, places=2)

    def test_names_by_a_pattern(self) -> None:
        for pattern, name in (("{song} - {track}, {version} {number}", "Test - take, tuned 01"), ("", "take tuned")):
            _, _, done = self.finished(pattern=pattern)
            self.assertEqual(done.result["shown_name"], f"{name}.wav")
        _, _, done = self.finished(pattern="{track} {number} {date}")
        self.assertRegex(done.result["shown_name"], r"^take 03 \d{4}-\d\d-\d\d\.wav$")
        for pattern in ("{nothing}", "two\nlines"):
            with self.assertRaisesRegex(ParameterError, "A name for prints"):
                request_print(self.desk, self.track.id, {"pattern": pattern})

    def test_prints_are_listed_and_taken_away(self) -> None:
        _, _, first = self.finished(bits=16)
        _, _, second = self.finished(bits=24)
        listed = list_prints(self.desk, self.song.id)
        self.assertEqual([one.made.id for one in listed], [second.id, first.id])
        self.assertEqual((listed[0].values["version"], listed[0].values["label"]), ("tuned", "As found"))
        remove_print(self.desk, first.id)
        self.assertEqual([one.made.id for one in list_prints(self.desk, self.song.id)], [second.id])
        self.assertFalse(self.work.audio.print_path(first.result["file"]).exists())
        with self.assertRaises(NotFoundError):
            remove_print(self.desk, first.id)

    def test_tracks_as_one_length_from_bar_one(self) -> None:
        change_song(self.work, self.song.id, {"tempo": 120.0, "bar_one_s": 0.5})
        other = self.bring_in(REAL_TAKE, role="double", offset_s=1.5)
        change_track(self.work, self.track.id, {"offset_s": 1.0})
        tasks = request_prints(self.desk, [(self.track.id, None), (other.id, None)], {"one_length": True})
        lengths = []
        for task, track in zip(tasks, (self.track, other), strict=True):
            run_task(self.work, task.id)
            done = self.work.tasks.get(task.id)
            printed, info = read_audio(self.work.audio.print_path(done.result["file"]))
            lengths.append(printed.shape[1] / info.sample_rate)
            source, _ = read_audio(self.work.audio.source(track.audio_hash))
            offset = self.work.tracks.get(track.id).offset_s
            at = round((offset - 0.5) * info.sample_rate)
            np.testing.assert_array_equal(printed[:, at : at + source.shape[1]], source)
            self.assertFalse(printed[:, :at].any())
        self.assertAlmostEqual(lengths[0], lengths[1], places=3)

    def test_a_mix_is_the_sum_of_what_sounds_with_its_levels(self) -> None:
        voice, _ = read_audio(self.folder / "take.wav")
        rng = np.random.default_rng(5)
        band = np.round(rng.uniform(-0.1, 0.1, (2, 60_000)) * 32768) / 32768
        write_wav(self.folder / "band.wav", np.round(band * 32768).astype(np.int32), RATE, bits=16)
        backing = self.bring_in(self.folder / "band.wav", role="backing", offset_s=0.5)
        change_track(self.work, backing.id, {"level_db": -6.0})
        self.do(type="tune", note_ids=["n0001"])
        task = request_mix(self.desk, self.song.id, {"bits": 32})
        run_task(self.work, task.id)
        done = self.work.tasks.get(task.id)
        self.assertEqual((done.state, done.result["shown_name"]), ("done", "Test mix.wav"), done.message)
        mix, info = read_audio(self.work.audio.print_path(done.result["file"]))
        take = self.desk.take(self.now())
        wanted = np.zeros((2, max(voice.shape[1], round(0.5 * RATE) + 60_000)))
        wanted[:, : take.length] += take.span(0, take.length)
        wanted[:, round(0.5 * RATE) :][:, :60_000] += band * 10 ** (-6 / 20)
        np.testing.assert_allclose(mix, wanted, atol=1e-6)
        self.assertEqual((info.channels, done.result["untouched_share"], done.result["notes_changed"]), (2, 0.0, 1))
