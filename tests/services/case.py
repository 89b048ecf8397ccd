"""A workspace with one song, for tests of services."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

from glass_thread.services.desk import Desk, Standing
from glass_thread.services.edit import Done, edit
from glass_thread.services.import_audio import import_audio
from glass_thread.services.songs import create_song
from glass_thread.services.work.here import run_task
from glass_thread.services.workspace import Workspace, open_workspace
from glass_thread.store.records import Task, Track
from tests.kept import analyses_kept, kept_folder
from tests.signals import FolderCase, write_short


def brought_in(work: Workspace, song_id: str, path: Path, **settings: Any) -> Task:
    """Import a file and have it analysed; the task as it ended."""
    with path.open("rb") as stream:
        _track, task = import_audio(work, song_id, stream, path.name, **settings)
    with analyses_kept():
        run_task(work, task.id)
    return work.tasks.get(task.id)


def _with_take(folder: Path) -> None:
    work = open_workspace(folder)
    with tempfile.TemporaryDirectory() as beside:
        brought_in(work, create_song(work, "Test").id, write_short(Path(beside)))
    work.close()


class SongCase(FolderCase):
    """A workspace with one song, and a desk over it."""

    def setUp(self) -> None:
        super().setUp()
        self.open_desk()
        self.song = create_song(self.work, "Test")

    def open_desk(self, begun: Path | None = None) -> None:
        """Open the workspace."""
        self.work: Workspace = self.workspace(begun)
        self.desk = Desk(self.work)

    def bring_in(self, path: Path, **settings: object) -> Track:
        """Import a file and have it analysed."""
        task = brought_in(self.work, self.song.id, path, **settings)
        self.assertEqual(task.state, "done", task.message)
        assert task.track_id
        return self.work.tracks.get(task.track_id)


class TakeCase(SongCase):
    """The short performance, which was brought in as the lead once and is copied; its file is `take.wav`."""

    def setUp(self) -> None:
        FolderCase.setUp(self)
        write_short(self.folder)
        self.open_desk(kept_folder("take", _with_take))
        self.song = self.work.songs.all()[0]
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
