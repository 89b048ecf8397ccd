"""A workspace with one song, for tests of services."""

from __future__ import annotations

import tempfile
from functools import partial
from pathlib import Path
from typing import Any

from glass_thread.bench.speed.screen import bring_in
from glass_thread.services.folder.workspace import Workspace, open_workspace
from glass_thread.services.history.edit import Done, edit
from glass_thread.services.session.desk import Desk, Standing
from glass_thread.services.song.import_audio import import_audio
from glass_thread.services.song.songs import create_song
from glass_thread.services.work.here import run_task
from glass_thread.store.records import Track
from tests.kept import analyses_kept, kept_folder
from tests.signals import FolderCase, write_short


def _song_in(folder: Path, *, take: bool) -> None:
    work = open_workspace(folder)
    song = create_song(work, "Test")
    if take:
        with tempfile.TemporaryDirectory() as beside, analyses_kept():
            bring_in(work, song.id, write_short(Path(beside)))
    work.close()


def _with_song() -> Path:
    return kept_folder("song", partial(_song_in, take=False))


def _with_take() -> Path:
    return kept_folder("take", partial(_song_in, take=True))


class SongCase(FolderCase):
    """A workspace with one song, and a desk over it."""

    begun_with = staticmethod(_with_song)

    def setUp(self) -> None:
        super().setUp()
        self.work: Workspace = self.workspace()
        self.desk = Desk(self.work)
        self.song = self.work.songs.all()[0]

    def bring_in(self, path: Path, **settings: object) -> Track:
        """Import a file and have it analysed."""
        with path.open("rb") as stream:
            track, task = import_audio(self.work, self.song.id, stream, path.name, **settings)
        with analyses_kept():
            run_task(self.work, task.id)
        self.assertEqual(self.work.tasks.get(task.id).state, "done", self.work.tasks.get(task.id).message)
        return self.work.tracks.get(track.id)


class TakeCase(SongCase):
    """The short performance, which was brought in as the lead once; its file is `take.wav`."""

    begun_with = staticmethod(_with_take)

    def setUp(self) -> None:
        super().setUp()
        write_short(self.folder)
        self.track = self.work.tracks.of_song(self.song.id)[0]

    def now(self) -> Standing:
        """The track as it stands in the version worked on."""
        return self.desk.at(self.track.id)

    def head(self) -> str:
        """The step that the version worked on stands at."""
        step_id = self.now().step_id
        assert step_id is not None
        return step_id

    def do(self, **operation: Any) -> Done:
        """Apply one operation to the version worked on."""
        return edit(self.desk, self.track.id, operation, base=self.head())
