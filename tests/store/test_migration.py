"""A data folder written by release 0.1 opens with every step and undo position kept."""

import json
import sqlite3
import tarfile
from contextlib import closing
from pathlib import Path

from sqlalchemy import Engine, event

from glass_thread.core.signal.errors import ParameterError
from glass_thread.formats.plain_data import content_from_data
from glass_thread.services.history.edit import edit, redo
from glass_thread.services.session.desk import Desk
from glass_thread.services.work.here import run_task
from glass_thread.store.database import Database
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
        self.assertEqual((song.title, song.tempo), ("Kept song", 96.0))
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


class StoppedTest(FolderCase):
    """A migration that is stopped anywhere leaves the folder as it was, and the next start does all of it."""

    def setUp(self) -> None:
        super().setUp()
        with tarfile.open(RELEASE / "data.tar.xz") as packed:
            packed.extractall(self.folder, filter="data")
        self.path = next(self.folder.rglob("*.sqlite3"))
        self.before = self.told()

    def told(self) -> list[tuple[str, ...]]:
        """Everything that the database holds, as statements."""
        with closing(sqlite3.connect(self.path)) as connection:
            return list(connection.iterdump())

    def stopped_after(self, statements: int) -> bool:
        """Open it with a failure after so many statements; False when there were not so many."""
        count = 0

        def counted(_connection, _cursor, text, _values, _context, _many) -> None:  # type: ignore[no-untyped-def]
            nonlocal count
            count += not text.startswith(("PRAGMA", "BEGIN"))
            if count > statements:
                raise KeyboardInterrupt

        event.listen(Engine, "before_cursor_execute", counted)
        try:
            Database(self.path).close()
        except KeyboardInterrupt:
            return True
        finally:
            event.remove(Engine, "before_cursor_execute", counted)
        return False

    def test_nothing_is_half_done_wherever_it_is_stopped(self) -> None:
        stops = 0
        for statements in (2, 9, 20, 35, 54, 80, 110, 150, 200, 270):
            if not self.stopped_after(statements):
                break
            stops += 1
            with self.subTest(statements=statements):
                self.assertEqual(self.told(), self.before)
        self.assertGreater(stops, 4)
        Database(self.path).close()
        self.assertNotEqual(self.told(), self.before)
        with closing(sqlite3.connect(self.path)) as connection:
            self.assertEqual(connection.execute("PRAGMA foreign_key_check").fetchall(), [])

    def test_a_copy_of_what_was_is_kept(self) -> None:
        Database(self.path).close()
        (kept,) = self.path.parent.glob("* before *.sqlite3")
        with closing(sqlite3.connect(kept)) as connection:
            self.assertEqual(list(connection.iterdump()), self.before)

    def test_a_folder_of_a_newer_program_is_refused_and_stays(self) -> None:
        Database(self.path).close()
        with closing(sqlite3.connect(self.path)) as connection, connection:
            connection.execute("UPDATE alembic_version SET version_num = '0999'")
        newer = self.told()
        with self.assertRaisesRegex(ParameterError, "newer Glass Thread"):
            Database(self.path)
        self.assertEqual(self.told(), newer)

    def test_a_folder_with_any_name(self) -> None:
        odd = self.folder / "what? 50 % of it#1" / "x.sqlite3"
        Database(odd).close()
        self.assertTrue(odd.is_file())
