"""The log of a song: everything that was done to it and its tracks' places, names and words, with before and after.

A step's change maps the name of a value to what it was before and after: ``song.tempo``, ``track.ID.name`` and, for a
version whose head was moved along, ``head.ID``. Rows of songs and tracks hold what stands now, and whatever the log
names is changed through the log alone. Order comes from numbers: `number` counts the steps of a song, `turn` goes up
whenever one is made, taken back or done again.
"""

from __future__ import annotations

import time
from collections.abc import Mapping, Sequence
from contextvars import ContextVar
from typing import Any, NamedTuple

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session, undefer

from ..core.signal.errors import ConflictError, NotFoundError
from .database import Database
from .finding import Finder
from .models import SongRow, SongStepRow, TrackRow
from .records import SongStep, new_id

# Who makes what is stored now: the name of the sign-in code of a request, "" on the machine itself.
made_by: ContextVar[str] = ContextVar("made_by", default="")
DONE, UNDONE, LEFT = "done", "undone", "left"
OF_SONGS = frozenset({
    "title", "tonic", "scale", "classes", "reference_hz", "reference_key", "temperament", "key_changes", "key_chosen",
    "tempo", "beats_per_bar", "beat_unit", "bar_one_s", "tempo_changes", "tempo_chosen", "markers", "handoff",
    "start_s", "language", "chords",
})  # fmt: skip
OF_TRACKS = frozenset({"name", "role", "offset_s", "position", "words", "laid", "singer", "removed_at"})
Values = Mapping[str, Any]


class Pair(NamedTuple):
    """A value before and after, where the row does not say what was before."""

    before: Any
    after: Any


_STEPS = Finder(SongStep, SongStepRow, ["song_id"], order="number")
_STEP = Finder(SongStep, SongStepRow, ["song_id", "number"])


class SongLog:
    """The steps of songs."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self, song_id: str) -> list[SongStep]:
        """The steps of a song, oldest first."""
        return _STEPS.all(self._database, song_id=song_id)

    def changes(self, song_id: str) -> list[dict[str, Any]]:
        """What each step of a song changed, oldest first."""
        with self._database.look() as connection:
            asked = select(SongStepRow.change).where(SongStepRow.song_id == song_id).order_by(SongStepRow.number)
            return list(connection.execute(asked).scalars())

    def turn(self, song_id: str) -> int:
        """A number that goes up with everything that is done to a song; 0 at first."""
        with self._database.look() as connection:
            asked = select(func.max(SongStepRow.turn)).where(SongStepRow.song_id == song_id)
            return connection.execute(asked).scalar() or 0

    def change(self, song_id: str, label: str, values: Values, *, base: int | None = None) -> SongStep | None:
        """Give values of a song and of its tracks, by name, as one step; None when they are so already.

        Raises
        ------
        ConflictError
            When one of them was changed after the turn `base`, by name of both sides.
        """
        with self._database.write() as session:
            return log_step(session, song_id, label, values, base=base)

    def latest(self, song_id: str) -> SongStep | None:
        """The step that is taken back next."""
        return self._numbered(song_id, self._last(song_id))

    def following(self, song_id: str) -> SongStep | None:
        """The step that is done again next: the first of those that were taken back since the last that stands."""
        later = (SongStepRow.song_id == song_id, SongStepRow.state == UNDONE)
        asked = select(func.min(SongStepRow.number)).where(*later, SongStepRow.number > (self._last(song_id) or 0))
        with self._database.look() as connection:
            number = connection.execute(asked).scalar()
        return self._numbered(song_id, number)

    def _last(self, song_id: str) -> int | None:
        """The number of the last step that stands."""
        rows = (SongStepRow.song_id == song_id, SongStepRow.state == DONE)
        with self._database.look() as connection:
            return connection.execute(select(func.max(SongStepRow.number)).where(*rows)).scalar()

    def _numbered(self, song_id: str, number: int | None) -> SongStep | None:
        return None if number is None else _STEP.one(self._database, song_id=song_id, number=number)

    def go(self, step_id: str, state: str) -> None:
        """Take a step back (`UNDONE`) or do it again (`DONE`), except for the heads of versions in it."""
        with self._database.write() as session:
            mark(session, step_id, state)


def log_step(
    session: Session, song_id: str, label: str, values: Values, *, base: int | None = None, step_id: str | None = None
) -> SongStep | None:
    """`SongLog.change` within a transaction."""
    change = {}
    for name, value in values.items():
        before, after = value if isinstance(value, Pair) else (_value(session, name, song_id), value)
        if before != after:
            change[name] = [before, after]
    if not change:
        return None
    if base is not None:
        _refuse_stale(session, song_id, change, base, label)
    for name, (_before, after) in change.items():
        _put(session, name, after, song_id)
    number, turn = session.execute(
        select(func.coalesce(func.max(SongStepRow.number), 0) + 1, func.coalesce(func.max(SongStepRow.turn), 0) + 1)
        .where(SongStepRow.song_id == song_id)
    ).one()  # fmt: skip
    session.execute(
        update(SongStepRow).where(SongStepRow.song_id == song_id, SongStepRow.state == UNDONE).values(state=LEFT)
    )
    row = SongStepRow(id=step_id or new_id(), song_id=song_id, number=number, turn=turn, state=DONE, label=label,
                      change=change, created_at=time.time(), made_by=made_by.get())  # fmt: skip
    session.add(row)
    session.flush()
    return SongStep(row.id, song_id, number, turn, DONE, label, row.created_at, row.made_by)


def mark(session: Session, step_id: str, state: str) -> None:
    """Put the values of a step as they were before it or after it; a step that there is none of is left alone."""
    row = session.get(SongStepRow, step_id, options=[undefer(SongStepRow.change)])
    if row is None or (row.state == DONE) == (state == DONE):
        return
    here, there = (1, 0) if state == UNDONE else (0, 1)
    for name, pair in row.change.items():
        if name.startswith("head."):
            continue
        if _value(session, name, row.song_id) != pair[here]:
            raise ConflictError(f"“{row.label}” cannot be moved: the same was changed since. Undo that first.")
    for name, pair in row.change.items():
        _put(session, name, pair[there], row.song_id)
    row.state, row.turn = (
        state,
        1 + (session.scalar(select(func.max(SongStepRow.turn)).where(SongStepRow.song_id == row.song_id)) or 0),
    )
    session.flush()


def forget_tracks(session: Session, track_ids: Sequence[str]) -> None:
    """Take tracks away for good, and out of the steps that name them."""
    for track_id in track_ids:
        of = select(TrackRow.song_id).where(TrackRow.id == track_id).scalar_subquery()
        steps = select(SongStepRow).where(SongStepRow.song_id == of).options(undefer(SongStepRow.change))
        rows = session.scalars(steps).all()
        session.execute(delete(TrackRow).where(TrackRow.id == track_id))
        for row in rows:
            kept = {name: pair for name, pair in row.change.items() if not name.startswith(f"track.{track_id}.")}
            if not kept:
                session.delete(row)
            elif len(kept) < len(row.change):
                row.change = kept
    session.flush()


def _row(session: Session, name: str, song_id: str) -> tuple[SongRow | TrackRow, str]:
    of, _, rest = name.partition(".")
    if of == "song":
        row: SongRow | TrackRow | None = session.get(SongRow, song_id)
        field = rest
    else:
        track_id, _, field = rest.partition(".")
        row = session.get(TrackRow, track_id)
    if row is None:
        raise NotFoundError(f"There is no such {of}; it may have been removed.")
    return row, field


def _value(session: Session, name: str, song_id: str) -> Any:
    row, field = _row(session, name, song_id)
    return getattr(row, field)


def _put(session: Session, name: str, value: Any, song_id: str) -> None:
    if not name.startswith("head."):
        row, field = _row(session, name, song_id)
        setattr(row, field, value)


def _refuse_stale(session: Session, song_id: str, change: Values, base: int, label: str) -> None:
    rows = session.scalars(
        select(SongStepRow)
        .where(SongStepRow.song_id == song_id, SongStepRow.turn > base)
        .order_by(SongStepRow.turn.desc())
        .options(undefer(SongStepRow.change))
    )
    for row in rows:
        if row.change.keys() & change.keys():
            how = "done" if row.state == DONE else "taken back"
            raise ConflictError(
                f"“{row.label}” was {how} elsewhere meanwhile, and “{label}” would overwrite it. Nothing was changed; "
                "look at it and do yours again if it is still wanted."
            )
