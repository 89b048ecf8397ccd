"""The data folder and everything in it, handed to every service."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from platformdirs import user_data_path

from ...core.signal.errors import ParameterError
from ...store.database import Database
from ...store.files.analysis_cache import AnalysisCache
from ...store.files.audio_files import AudioFiles
from ...store.history import History
from ...store.repositories import Prints, Songs, Tasks, Tracks
from ...store.song_log import SongLog
from ...store.sweep import Swept, sweep
from ...store.tune_passes import TunePasses

DATABASE = "glass-thread.sqlite3"


@dataclass(frozen=True)
class Workspace:
    """Repositories and files of one data folder; `announce` says that a task waits."""

    folder: Path
    songs: Songs
    log: SongLog
    tracks: Tracks
    history: History
    tasks: Tasks
    prints: Prints
    passes: TunePasses
    audio: AudioFiles
    analyses: AnalysisCache
    announce: Callable[[], None]
    database: Database

    def close(self) -> None:
        """Close the database."""
        self.database.close()


def default_data_folder() -> Path:
    """``$GLASS_THREAD_DATA``, else ``glass-thread`` in the XDG data directory."""
    chosen = os.environ.get("GLASS_THREAD_DATA")
    if chosen:
        return Path(chosen).expanduser()
    return user_data_path("glass-thread", appauthor=False)


def existing_data_folder(folder: Path) -> Path:
    """The folder, resolved; ParameterError when it is none that this program has worked in."""
    found = folder.resolve()
    if not (found / DATABASE).is_file():
        raise ParameterError(f"There is no data folder at {found}.")
    return found


def open_workspace(folder: Path, *, announce: Callable[[], None] = lambda: None) -> Workspace:
    """Open (and create or migrate) a data folder."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)  # unreleased recordings are nobody else's
    database = Database(folder / DATABASE)
    return Workspace(
        folder,
        Songs(database),
        SongLog(database),
        Tracks(database),
        History(database),
        Tasks(database),
        Prints(database),
        TunePasses(database),
        AudioFiles(folder),
        AnalysisCache(folder),
        announce,
        database,
    )


def tidy(workspace: Workspace) -> Swept:
    """Take away the files of removed songs, removed tracks and failed imports."""
    return sweep(workspace.database, workspace.folder)
