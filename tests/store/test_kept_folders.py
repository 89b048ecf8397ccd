"""Folders of earlier layouts open with every step, version, print and undo position, and sound the same."""

import json
import shutil
import tarfile
from typing import Any

import numpy as np

from glass_thread.formats.plain_data import edited_from_data, edited_to_data
from glass_thread.services.history.edit import redo, undo
from glass_thread.services.prints.printing import print_file
from glass_thread.services.session.desk import Desk
from glass_thread.services.upkeep.checking import check_folder
from tests.signals import FolderCase
from tests.store.kept_folder import KEPT, told


def read_now(told: dict[str, Any]) -> dict[str, Any] | None:
    """What was told of something then, as it is told now: a link kept what it gave by value, where it has marks."""
    return edited_to_data(edited_from_data(told)) if "link" in told else told


class KeptFoldersTest(FolderCase):
    def test_they_tell_what_they_told_then(self) -> None:
        for place in sorted(KEPT.iterdir()):
            with self.subTest(layout=place.name):
                self.begin_with(place.name)
                then, now = json.loads((place / "told.json").read_text()), told(self.work)
                for before, after in zip(self.corrections(then), self.corrections(now), strict=True):
                    np.testing.assert_allclose(after, before, atol=1e-5)
                for track in then["tracks"]:
                    for version in track["versions"]:
                        version["content"] = {name: read_now(one) for name, one in version["content"].items()}
                self.assertEqual(json.loads(json.dumps(now)), json.loads(json.dumps(then)))
                self.work.close()

    def test_undone_steps_are_redone_prints_are_there_and_the_folder_is_sound(self) -> None:
        for place in sorted(KEPT.iterdir()):
            with self.subTest(layout=place.name):
                self.begin_with(place.name)
                desk = Desk(self.work)
                (song,) = self.work.songs.all()
                for track in self.work.tracks.of_song(song.id):
                    version = self.work.history.version(str(track.version_id))
                    if version.tip_id != version.head_id:
                        redone = redo(desk, track.id, base=version.head_id).version.head_id
                        self.assertEqual(undo(desk, track.id, base=redone).version.head_id, version.head_id)
                prints = self.work.prints.of_song(song.id)
                self.assertTrue(prints and all(print_file(desk, one).is_file() for one in prints))
                self.assertEqual([one.trouble for one in check_folder(self.work, prints=False)], [])
                self.work.close()

    def begin_with(self, name: str) -> None:
        """Open a copy of a kept folder."""
        shutil.rmtree(self.folder / "data", ignore_errors=True)
        with tarfile.open(KEPT / name / "data.tar.xz") as packed:
            packed.extractall(self.folder / "data", filter="data")
        self.work = self.workspace()

    @staticmethod
    def corrections(found: dict) -> list[np.ndarray]:
        """The corrections of a folder's versions, taken out of it."""
        return [np.array(version.pop("correction")) for track in found["tracks"] for version in track["versions"]]
