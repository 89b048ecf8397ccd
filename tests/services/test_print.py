import errno
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np

from glass_thread.core.signal.errors import ParameterError
from glass_thread.formats.audio import read_audio
from glass_thread.services.edit import undo
from glass_thread.services.print_writer import PrintSummary, changed_counts, print_form, write_print
from glass_thread.services.printing import print_summary, request_print
from glass_thread.services.work.here import run_task
from tests.services.case import TakeCase
from tests.signals import RATE


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
        with mock.patch("glass_thread.store.audio_files.put_in_place", side_effect=OSError(errno.ENOSPC, "no room")):
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
