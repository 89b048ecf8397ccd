"""A data folder written by release 0.1 opens with every step and undo position kept."""

import json
import tarfile
from pathlib import Path

from glass_thread.formats.plain_data import content_from_data
from glass_thread.services.history.edit import edit, redo
from glass_thread.services.session.desk import Desk
from glass_thread.services.work.here import run_task
from tests.signals import FolderCase

RELEASE = Path(__file__).parent / "release_0_1"


class MigrationTest(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        with tarfile.open(RELEASE / "data.tar.xz") as packed:
            packed.extractall(self.folder, filter="data")
        self.expected = json.loads((RELEASE / "expected.json").read_text())
        self.work = self.workspace()
        self.desk = Desk(self.work)

    def test_every_step_gives_what_it_gave_then(self) -> None:
        for track_id, then in self.expected["tracks"].items():
            sung, tuned = self.work.history.versions(track_id)
            self.assertEqual((sung.kind, tuned.kind), ("as_sung", "tuned"))
            path = self.work.history.path(tuned.tip_id, most=1000)
            self.assertEqual([step.label for step in reversed(path)][1:], then["labels"])
            head = self.work.history.step(tuned.head_id)
            self.assertEqual(head.number, then["cursor"])
            ids = {step.number: step.id for step in path}
            for number, content in then["content"].items():
                with self.subTest(track=track_id, step=number):
                    now = self.desk.at(track_id, ids[int(number)]).content
                    self.assertEqual(now, content_from_data(content))

    def test_undone_steps_can_be_redone_and_work_goes_on(self) -> None:
        lead = self.expected["lead"]
        for _ in range(3):
            redo(self.desk, lead, base=self.desk.at(lead).step_id)
        last = max(map(int, self.expected["tracks"][lead]["content"]))
        then = content_from_data(self.expected["tracks"][lead]["content"][str(last)])
        self.assertEqual(self.desk.at(lead).content, then)
        done = edit(self.desk, lead, {"type": "put_back", "note_ids": ["n0001"]}, base=self.desk.at(lead).step_id)
        self.assertEqual(done.step.number, last + 1)

    def test_song_passes_prints_and_waiting_work(self) -> None:
        (song,) = self.work.songs.all()
        self.assertEqual((song.title, song.tempo, song.earlier_key), ("Kept song", 96.0, None))
        self.assertEqual(list(self.work.passes.all()), ["Mine"])
        lead = self.work.tracks.get(self.expected["lead"])
        self.assertEqual((lead.offset_s, lead.level_db, lead.words), (1.5, -2.0, {"0": "first words"}))
        done = self.work.tasks.get(self.expected["done_print"])
        self.assertTrue(self.work.audio.print_path(done.result["file"]).is_file())
        run_task(self.work, self.expected["waiting_print"])
        waited = self.work.tasks.get(self.expected["waiting_print"])
        self.assertEqual((waited.state, waited.result["notes_changed"]), ("done", 4), waited.message)

    def test_opening_it_twice_changes_nothing_more(self) -> None:
        before = [self.work.history.versions(track) for track in self.expected["tracks"]]
        self.work.close()
        self.assertEqual([self.workspace().history.versions(track) for track in self.expected["tracks"]], before)
