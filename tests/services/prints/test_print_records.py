"""Prints as records of their own: frozen when they are asked for, kept whatever becomes of tasks and folders."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np

from glass_thread.core.signal.errors import AudioError
from glass_thread.core.signal.types import Floats
from glass_thread.formats.audio import read_audio
from glass_thread.services.prints.handoff import folder_of
from glass_thread.services.prints.keeping import hand_over_again
from glass_thread.services.prints.mixing import request_mix
from glass_thread.services.prints.print_writer import summary_from
from glass_thread.services.prints.printing import list_prints, print_file, request_print
from glass_thread.services.song.removed import remove_track
from glass_thread.services.song.songs import change_song, change_track
from glass_thread.services.work.here import run_task
from glass_thread.store.records import Task
from tests.services.case import TakeCase
from tests.services.prints.test_handoff import FolderCase as HandOffCase

WAV = {"container": "wav", "bits": 32}


class FrozenTest(TakeCase):
    def sound(self, task: Task) -> Floats:
        run_task(self.work, task.id)
        done = self.work.tasks.get(task.id)
        self.assertEqual(done.state, "done", done.message)
        return read_audio(print_file(self.desk, self.work.prints.get(task.id)))[0]

    def test_a_mix_holds_what_sounded_when_it_was_asked_for(self) -> None:
        self.do(type="tune", note_ids=list(self.now().content.notes))
        change_track(self.work, self.track.id, {"level_db": -3.0, "pan": 0.5})
        wanted = self.sound(request_mix(self.desk, self.song.id, WAV))
        for change in ({"muted": True}, {"level_db": 6.0}, {"pan": -0.5}, {"offset_s": 2.0}):
            with self.subTest(change):
                task = request_mix(self.desk, self.song.id, WAV)
                before = {name: getattr(self.work.tracks.get(self.track.id), name) for name in change}
                change_track(self.work, self.track.id, change)
                np.testing.assert_array_equal(self.sound(task), wanted)
                change_track(self.work, self.track.id, before)

    def test_a_print_is_made_though_its_track_was_removed_meanwhile(self) -> None:
        self.do(type="tune", note_ids=list(self.now().content.notes))
        wanted = self.sound(request_print(self.desk, self.track.id, WAV))
        tasks = [request_print(self.desk, self.track.id, WAV), request_mix(self.desk, self.song.id, WAV)]
        remove_track(self.work, self.track.id)
        for task in tasks:
            np.testing.assert_array_equal(self.sound(task)[:1], wanted)

    def test_a_print_is_made_in_the_keys_it_was_asked_for_in(self) -> None:
        change_song(self.work, self.song.id, {"tonic": 0, "scale": "major"})
        self.do(type="glaze", start_s=0.0, end_s=4.0, values={"settle_ms": 50.0})
        wanted = self.sound(request_print(self.desk, self.track.id, WAV))
        task = request_print(self.desk, self.track.id, WAV)
        change_song(self.work, self.song.id, {"tonic": 1, "scale": "major pentatonic"})
        other = self.desk.take(self.now())
        self.assertGreater(float(np.abs(other.span(0, other.length) - wanted).max()), 0.01)
        np.testing.assert_array_equal(self.sound(task), wanted)

    def test_a_task_that_is_forgotten_takes_no_print_along(self) -> None:
        task = request_print(self.desk, self.track.id, WAV)
        before = self.sound(task)
        self.work.tasks.remove(task.id)
        (kept,) = list_prints(self.desk, self.song.id)
        self.assertTrue(kept.there)
        np.testing.assert_array_equal(read_audio(print_file(self.desk, kept.made))[0], before)


class FailedHandOffTest(HandOffCase):
    def test_a_folder_that_fails_loses_no_print_and_it_is_handed_over_later(self) -> None:
        track = self.brought("Lead.wav")
        task = request_print(self.desk, track.id, {"container": "wav", "handoff": True})
        out = folder_of(self.desk, self.work.songs.get(self.song.id)) / "out"
        shutil.rmtree(out, ignore_errors=True)
        out.write_text("a file where a folder should be")
        run_task(self.work, task.id)
        self.assertEqual(self.work.tasks.get(task.id).state, "done")
        (kept,) = list_prints(self.desk, self.song.id)
        self.assertTrue(kept.there)
        self.assertIn("hand-off folder", kept.made.trouble)
        with self.assertRaisesRegex(AudioError, "hand-off folder"):
            hand_over_again(self.desk, kept.made.id)
        out.unlink()
        hand_over_again(self.desk, kept.made.id)
        (kept,) = list_prints(self.desk, self.song.id)
        self.assertEqual((kept.made.trouble, kept.made.handed_over), ("", kept.made.shown_name))
        self.assertEqual((out / kept.made.shown_name).read_bytes(), Path(print_file(self.desk, kept.made)).read_bytes())


class HostileOutcomeTest(TakeCase):
    def test_figures_are_checked_one_by_one(self) -> None:
        good = {"untouched_share": 0.5, "peak_dbfs": -1.0, "notes_changed": 3, "borrowed": [], "displaced": [[0, 1]]}
        self.assertEqual(summary_from(good).notes_changed, 3)
        for wrong in (
            {"peak_dbfs": {}}, {"peak_dbfs": float("nan")}, {"peak_dbfs": "0"}, {"untouched_share": 2.0},
            {"notes_changed": -1}, {"notes_changed": 1.5}, {"notes_changed": True}, {"file": "/etc/passwd"},
            {"shown_name": "x"}, {"borrowed": [1]}, {"borrowed": 3}, {"displaced": [[1]]}, {"displaced": [["a", "b"]]},
            {"integrated_lufs": "loud"}, {"true_peak_dbtp": None}, {"untouched_share": None},
        ):  # fmt: skip
            with self.subTest(wrong), self.assertRaisesRegex(AudioError, "A worker handed in"):
                summary_from({**good, **wrong})
        with self.assertRaisesRegex(AudioError, "A worker handed in"):
            summary_from({})
