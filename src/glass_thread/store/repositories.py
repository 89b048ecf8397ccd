"""Reading and writing records; each call is one short transaction."""

from __future__ import annotations

import time
import uuid
from collections.abc import Callable
from dataclasses import fields
from typing import Any, TypeVar

from sqlalchemy import delete, update
from sqlalchemy.exc import IntegrityError

from ..core.signal.errors import ConflictError, NotFoundError
from .database import Database
from .finding import Finder
from .models import Base, SongRow, TaskRow, TrackRow
from .records import Song, Step, Task, Track, Version

Record = TypeVar("Record", Song, Track, Step, Task, Version)


def new_id() -> str:
    """A fresh identifier of 32 hexadecimal digits."""
    return uuid.uuid4().hex


def record_of(kind: type[Record], row: Base) -> Record:
    """The frozen record of a row."""
    return kind(**{field.name: getattr(row, field.name) for field in fields(kind)})


_task = TaskRow.__table__.c
_SONG, _SONGS = Finder(Song, SongRow, ["id"]), Finder(Song, SongRow, order="created_at")
_TRACK, _TRACKS_OF_SONG = Finder(Track, TrackRow, ["id"]), Finder(Track, TrackRow, ["song_id"], order="position")
_TASK, _UNFINISHED = Finder(Task, TaskRow, ["id"]), Finder(Task, TaskRow, [], _task.state.in_(("waiting", "running")))
_TASKS_OF_SONG = Finder(
    Task, TaskRow, ["song_id"], _task.state.in_(("waiting", "running", "failed")), order="created_at"
)
_PRINTS_OF_SONG = Finder(Task, TaskRow, ["song_id"], _task.kind == "print", order="created_at")


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

    def get(self, song_id: str) -> Song:
        """One song, or NotFoundError."""
        found = _SONG.one(self._database, id=song_id)
        if found is None:
            raise NotFoundError("There is no such song; it may have been removed.")
        return found

    def change(self, song_id: str, values: dict[str, Any]) -> Song:
        """Change values of a song."""
        with self._database.write() as session:
            row = session.get(SongRow, song_id)
            if row is None:
                raise NotFoundError("There is no such song; it may have been removed.")
            for name, value in values.items():
                setattr(row, name, value)
            session.flush()
            return record_of(Song, row)

    def remove(self, song_id: str) -> None:
        """Remove a song with its tracks, steps and tasks."""
        with self._database.write() as session:
            session.execute(delete(SongRow).where(SongRow.id == song_id))


class Tracks:
    """Tracks and their history."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(self, keep: Callable[[], None], carry_from: str | None = None, **values: Any) -> tuple[Track, Task]:
        """Store a new track with the task that brings it in, and `keep` its file, all or nothing.

        The same audio twice in one song is a ConflictError.  `carry_from` names a track whose edits it is to get.
        """
        row = TrackRow(id=new_id(), **values)
        wanted = {"file": row.name} | ({"carry_from": carry_from} if carry_from else {})
        task = TaskRow(id=new_id(), created_at=time.time(), result={}, kind="import", song_id=row.song_id,
                       track_id=row.id, wanted=wanted)  # fmt: skip
        try:
            with self._database.write() as session:
                session.add_all((row, task))
                session.flush()
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
                       ready=True, words=dict(source.words), derived_from=source.id, **values)  # fmt: skip
        with self._database.write() as session:
            session.add(row)
            session.flush()
            return record_of(Track, row)

    def of_song(self, song_id: str) -> list[Track]:
        """Tracks of a song in their order."""
        return _TRACKS_OF_SONG.all(self._database, song_id=song_id)

    def get(self, track_id: str) -> Track:
        """One track, or NotFoundError."""
        found = _TRACK.one(self._database, id=track_id)
        if found is None:
            raise NotFoundError("There is no such track; it may have been removed.")
        return found

    def change(self, track_id: str, values: dict[str, Any]) -> Track:
        """Change values of a track that are not part of its history."""
        with self._database.write() as session:
            session.execute(update(TrackRow).where(TrackRow.id == track_id).values(**values))
        return self.get(track_id)

    def order(self, track_ids: list[str]) -> None:
        """Put tracks into an order."""
        with self._database.write() as session:
            for position, track_id in enumerate(track_ids):
                session.execute(update(TrackRow).where(TrackRow.id == track_id).values(position=position))

    def remove(self, track_id: str) -> None:
        """Remove a track with its steps."""
        with self._database.write() as session:
            session.execute(delete(TrackRow).where(TrackRow.id == track_id))


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

    def prints_of(self, song_id: str) -> list[Task]:
        """All prints of a song, oldest first."""
        return _PRINTS_OF_SONG.all(self._database, song_id=song_id)

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
