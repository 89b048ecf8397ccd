"""Reading and writing records; each call is one short transaction."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Mapping
from typing import Any

from sqlalchemy import delete, func, select, update
from sqlalchemy.exc import IntegrityError

from ..core.signal.errors import ConflictError, NotFoundError
from .database import Database
from .finding import Finder, record_of
from .models import PrintRow, SongRow, TaskRow, TrackRow
from .records import Print, Song, Task, Track, new_id
from .song_log import OF_SONGS, OF_TRACKS, Pair, forget_tracks, log_step

_task, _gone, _track_gone = TaskRow.__table__.c, SongRow.__table__.c.removed_at, TrackRow.__table__.c.removed_at
_SONG, _SONGS = Finder(Song, SongRow, ["id"]), Finder(Song, SongRow, [], _gone.is_(None), order="created_at")
_REMOVED_SONGS = Finder(Song, SongRow, [], _gone.is_not(None), order="removed_at")
_TRACK = Finder(Track, TrackRow, ["id"])
_TRACKS_OF_SONG = Finder(Track, TrackRow, ["song_id"], _track_gone.is_(None), order="position")
_REMOVED_TRACKS = Finder(Track, TrackRow, [], _track_gone.is_not(None), order="removed_at")
_TASK, _UNFINISHED = Finder(Task, TaskRow, ["id"]), Finder(Task, TaskRow, [], _task.state.in_(("waiting", "running")))
_TASKS_OF_SONG = Finder(
    Task, TaskRow, ["song_id"], _task.state.in_(("waiting", "running", "failed")), order="created_at"
)
_PRINT, _PRINTS = Finder(Print, PrintRow, ["id"]), Finder(Print, PrintRow, ["song_id"], order="number")


class Songs:
    """Songs."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, **values: Any) -> Song:
        """Store a new song with its given values."""
        row = SongRow(id=new_id(), created_at=time.time(), classes=values.pop("classes", []), done=[], **values)
        with self._database.write() as session:
            session.add(row)
            session.flush()
            return record_of(Song, row)

    def all(self) -> list[Song]:
        """All songs, oldest first."""
        return _SONGS.all(self._database)

    def removed(self) -> list[Song]:
        """Songs that were removed and not swept, the longest ago first."""
        return _REMOVED_SONGS.all(self._database)

    def get(self, song_id: str) -> Song:
        """One song, or NotFoundError."""
        found = _SONG.one(self._database, id=song_id)
        if found is None or found.removed_at is not None:
            raise NotFoundError("There is no such song; it may have been removed.")
        return found

    def change(self, song_id: str, values: dict[str, Any]) -> Song:
        """Change values of a song that are not part of its history."""
        _refuse_logged(values, OF_SONGS)
        with self._database.write() as session:
            row = session.get(SongRow, song_id)
            if row is None:
                raise NotFoundError("There is no such song; it may have been removed.")
            for name, value in values.items():
                setattr(row, name, value)
            session.flush()
            return record_of(Song, row)

    def forget(self, song_ids: Iterable[str]) -> None:
        """Take songs away for good, with their tracks, steps and tasks."""
        with self._database.write() as session:
            session.execute(delete(SongRow).where(SongRow.id.in_(list(song_ids))))


class Tracks:
    """Tracks and their history."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(
        self, keep: Callable[[], None], carry_from: str | None = None, song_start_s: float | None = None, **values: Any
    ) -> tuple[Track, Task]:
        """Store a new track with the task that brings it in, and `keep` its file, all or nothing.

        The same audio twice in one song is a ConflictError.  `carry_from` names a track whose edits it is to get,
        `song_start_s` is the time of day of the song's beginning when this is the first that knows it.
        """
        row = TrackRow(id=new_id(), **values)
        wanted = {"file": row.name} | ({"carry_from": carry_from} if carry_from else {})
        task = TaskRow(id=new_id(), created_at=time.time(), result={}, kind="import", song_id=row.song_id,
                       track_id=row.id, wanted=wanted)  # fmt: skip
        try:
            with self._database.write() as session:
                session.add_all((row, task))
                session.flush()
                there: dict[str, Any] = {brought_in(row.id): Pair(time.time(), None)}
                if song_start_s is not None:
                    there["song.start_s"] = song_start_s
                log_step(session, row.song_id, f"“{row.name}” brought in", there)
                keep()
                return record_of(Track, row), record_of(Task, task)
        except IntegrityError as error:
            raise ConflictError("This recording is already in the song.") from error

    def add_derived(self, source: Track, *, name: str, role: str, pan: float, level_db: float, position: int) -> Track:
        """Store a track that is made of another one and shares its recording."""
        kept = ("song_id", "audio_hash", "sample_rate", "channels", "frames", "container", "subtype", "time_reference",
                "offset_s", "notes_found")  # fmt: skip
        values = {field: getattr(source, field) for field in kept}
        row = TrackRow(id=new_id(), name=name, role=role, pan=pan, level_db=level_db, position=position, muted=False,
                       ready=True, words=dict(source.words),
                       laid=dict(source.laid), derived_from=source.id, **values)  # fmt: skip
        with self._database.write() as session:
            session.add(row)
            session.flush()
            return record_of(Track, row)

    def of_song(self, song_id: str) -> list[Track]:
        """Tracks of a song in their order."""
        return _TRACKS_OF_SONG.all(self._database, song_id=song_id)

    def removed(self) -> list[Track]:
        """Tracks that were removed from songs and not swept, the longest ago first."""
        return _REMOVED_TRACKS.all(self._database)

    def get(self, track_id: str, *, even_removed: bool = False) -> Track:
        """One track, or NotFoundError."""
        found = _TRACK.one(self._database, id=track_id)
        if found is None or (found.removed_at is not None and not even_removed):
            raise NotFoundError("There is no such track; it may have been removed.")
        return found

    def change(self, track_id: str, values: dict[str, Any]) -> Track:
        """Change values of a track that are part of no history."""
        _refuse_logged(values, OF_TRACKS)
        with self._database.write() as session:
            session.execute(update(TrackRow).where(TrackRow.id == track_id).values(**values))
        return self.get(track_id, even_removed=True)

    def forget(self, track_ids: Iterable[str]) -> None:
        """Take tracks away for good, with their steps."""
        with self._database.write() as session:
            forget_tracks(session, list(track_ids))


class Prints:
    """Finished prints."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, task: Task, **values: Any) -> Print:
        """Keep what came of a task as a print of the same id; one that is kept already stays as it is."""
        with self._database.write() as session:
            row = session.get(PrintRow, task.id)
            if row is None:
                last = session.scalar(select(func.max(PrintRow.number)).where(PrintRow.song_id == task.song_id))
                row = PrintRow(id=task.id, song_id=task.song_id, track_id=task.track_id, number=(last or 0) + 1,
                               created_at=time.time(), handed_over=None, trouble="", **values)  # fmt: skip
                session.add(row)
                session.flush()
            return record_of(Print, row)

    def of_song(self, song_id: str) -> list[Print]:
        """The prints of a song, oldest first."""
        return _PRINTS.all(self._database, song_id=song_id)

    def get(self, print_id: str) -> Print:
        """One print, or NotFoundError."""
        found = _PRINT.one(self._database, id=print_id)
        if found is None:
            raise NotFoundError("There is no finished print of that name.")
        return found

    def change(self, print_id: str, **values: Any) -> None:
        """Say whether a print was handed over."""
        with self._database.write() as session:
            session.execute(update(PrintRow).where(PrintRow.id == print_id).values(**values))

    def remove(self, print_id: str) -> None:
        """Take a print out of the list."""
        with self._database.write() as session:
            session.execute(delete(PrintRow).where(PrintRow.id == print_id))


class Tasks:
    """Long work and its progress."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, **values: Any) -> Task:
        """Store a waiting task."""
        row = TaskRow(id=new_id(), created_at=time.time(), result={}, **values)
        with self._database.write() as session:
            session.add(row)
            session.flush()
            return record_of(Task, row)

    def get(self, task_id: str) -> Task:
        """One task, or NotFoundError."""
        found = _TASK.one(self._database, id=task_id)
        if found is None:
            raise NotFoundError("There is no such task.")
        return found

    def of_song(self, song_id: str) -> list[Task]:
        """Tasks of a song that are waiting, running or failed, oldest first."""
        return _TASKS_OF_SONG.all(self._database, song_id=song_id)

    def unfinished(self) -> list[Task]:
        """Tasks that were waiting or running, for taking up again after a crash."""
        return _UNFINISHED.all(self._database)

    def change(self, task_id: str, **values: Any) -> None:
        """Change values of a task."""
        with self._database.write() as session:
            session.execute(update(TaskRow).where(TaskRow.id == task_id).values(**values))

    def remove(self, task_id: str) -> None:
        """Forget a task, for example a failure that was read."""
        with self._database.write() as session:
            session.execute(delete(TaskRow).where(TaskRow.id == task_id))


def brought_in(track_id: str) -> str:
    """What a song's log calls whether a track is in it."""
    return f"track.{track_id}.removed_at"


def _refuse_logged(values: Mapping[str, Any], logged: frozenset[str]) -> None:
    if logged & values.keys():
        raise ValueError(f"{', '.join(sorted(logged & values.keys()))}: changed through the song's log alone")
