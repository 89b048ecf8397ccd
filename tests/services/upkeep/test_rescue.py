"""A folder whose database is damaged, saved into a new one as far as it can be read."""

import random
import shutil
import sqlite3
import tarfile
from contextlib import closing
from pathlib import Path

from glass_thread.core.signal.errors import ParameterError
from glass_thread.services.folder.workspace import DATABASE, open_workspace
from glass_thread.services.history.edit import edit
from glass_thread.services.session.desk import Desk
from glass_thread.services.upkeep.checking import check_folder
from glass_thread.services.upkeep.rescue import Rescued, rescue
from tests.command import command
from tests.services.folder.test_bad_folders import bytes_in
from tests.signals import FolderCase
from tests.store.kept_folder import KEPT, told

PAGE = 4096


class RescueTest(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.old, self.new = self.folder / "old", self.folder / "new"
        with tarfile.open(max(KEPT.iterdir()) / "data.tar.xz") as packed:
            packed.extractall(self.old, filter="data")

    def rescued(self) -> Rescued:
        shutil.rmtree(self.new, ignore_errors=True)
        before = bytes_in(self.old)
        found = rescue(self.old, self.new)
        self.assertEqual(bytes_in(self.old), before)
        return found

    def told(self, folder: Path) -> dict:
        workspace = open_workspace(folder)
        try:
            workspace.database.refuse_damage()
            self.assertEqual([one.trouble for one in check_folder(workspace, prints=False, mend=True)], [])
            return told(workspace)
        finally:
            workspace.close()

    def without(self, statement: str) -> None:
        """Lose rows of the database."""
        with closing(sqlite3.connect(self.old / DATABASE)) as connection, connection:
            self.assertGreater(connection.execute(statement).rowcount, 0)

    def test_of_a_whole_one_nothing_is_lost(self) -> None:
        shutil.copytree(self.old, self.folder / "beside")
        found = self.rescued()
        self.assertEqual((found.told, [one.breaks for one in found.tables if one.breaks]), ([], []))
        self.assertEqual(self.told(self.new), self.told(self.folder / "beside"))

    def test_pages_that_cannot_be_read_cost_what_stood_on_them(self) -> None:
        path, saved, refused = self.old / DATABASE, 0, 0
        whole = path.read_bytes()
        rng = random.Random(3)
        for page in rng.sample(range(1, len(whole) // PAGE), 6):
            with self.subTest(page=page):
                path.write_bytes(whole[: page * PAGE] + rng.randbytes(PAGE) + whole[(page + 1) * PAGE :])
                try:
                    self.rescued()
                except ParameterError as error:
                    self.assertRegex(str(error), "Not even the names")
                    refused += 1
                    continue
                saved += bool(self.told(self.new)["tracks"])
        self.assertGreater(saved, 4)
        self.assertLess(refused, 2)

    def test_a_lost_step_costs_what_followed_it(self) -> None:
        self.without("DELETE FROM step WHERE number = 1 AND track_id = (SELECT track_id FROM step GROUP BY track_id "
                     "ORDER BY count(*) DESC LIMIT 1)")  # fmt: skip
        words = " ".join(self.rescued().told)
        self.assertRegex(words, "followed lost ones were left out.*stands at the latest step")
        self.told(self.new)

    def test_a_lost_beginning_song_and_versions_are_made_again(self) -> None:
        self.without("DELETE FROM step WHERE number = 0")
        self.without("DELETE FROM version")
        self.without("DELETE FROM song")
        found = self.rescued()
        for words in ("A song was lost", "its beginning was lost", "“As sung” was lost", "“Tuned” was lost"):
            self.assertIn(words, " ".join(found.told))
        self.told(self.new)
        workspace = open_workspace(self.new)
        self.addCleanup(workspace.close)
        desk, (song,) = Desk(workspace), workspace.songs.all()
        track = next(one for one in workspace.tracks.of_song(song.id) if one.analysis_id)
        standing = desk.at(track.id)
        note = next(iter(standing.content.notes))
        self.assertIsNotNone(edit(desk, track.id, {"type": "move", "note_ids": [note], "cents": 21.0},
                                  base=str(standing.step_id)).step)  # fmt: skip

    def test_by_the_command(self) -> None:
        done = command("rescue", self.old, self.new)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        self.assertRegex(done.stdout, r"step: \d+ rows\n(.*\n)*1 songs are in .*, nothing out of order.")
        again = command("rescue", self.old, self.new)
        self.assertEqual(again.returncode, 2)
        self.assertIn("There is something at", again.stderr)
        self.assertIn("There is no data folder", command("rescue", self.folder / "none", self.new).stderr)
