"""Steps, versions and snapshots: the history of tracks.

Steps are only ever added.  What moves are the heads of versions.
"""

from __future__ import annotations

import json
import time
import zlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import bindparam, delete, func, select, text, update
from sqlalchemy.orm import Session, undefer_group

from ..core.document.operations.registry import OPERATIONS
from ..core.signal.errors import NotFoundError, ParameterError, StaleEditError
from .database import Database
from .finding import Finder, record_of
from .models import SnapshotRow, StepRow, TrackRow, VersionRow
from .records import Step, StepEntry, Version, new_id
from .song_log import Pair, log_step, made_by, mark
from .step_walks import NO_STEP, ancestors, first_of_line, line_after, line_of, nearest_snapshot, on_the_way, step_row

AS_FOUND = "As found"
CHOOSING = frozenset(name for name, one in OPERATIONS.items() if one.needs == "rows")


@dataclass(frozen=True)
class NewStep:
    """A step that is about to be added to a version whose head is `base`."""

    version_id: str
    base: str
    label: str
    operation: dict[str, Any]
    change: dict[str, Any]


@dataclass(frozen=True)
class Move:
    """A version's head on its way from a step to another one."""

    version_id: str
    base: str
    to: str


_NOT_OF_TRACK = "There is no such step in this track's history."
_NO_VERSION = "There is no such version; it may have been removed."
_PLACE, _PLACE_OF = Finder(StepEntry, StepRow, ["id"]), Finder(StepEntry, StepRow, ["id", "track_id"])
_gone = VersionRow.__table__.c.removed_at
_VERSION = Finder(Version, VersionRow, ["id"])
_VERSIONS = Finder(Version, VersionRow, ["track_id"], _gone.is_(None), order="position")
_REMOVED = Finder(Version, VersionRow, ["track_id"], _gone.is_not(None), order="position")


_HEADS = (
    select(VersionRow.track_id, VersionRow.id, VersionRow.head_id)
    .join(TrackRow, TrackRow.id == VersionRow.track_id)
    .where(TrackRow.song_id == bindparam("song_id"), TrackRow.removed_at.is_(None))
)


class History:
    """The step trees of all tracks, and the versions in them."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def begin(self, track_id: str, analysis_id: str) -> None:
        """Give a track its root, As sung and Tuned, over an analysis."""
        root, sung, tuned = new_id(), new_id(), new_id()
        now = time.time()
        with self._database.write() as session:
            session.add(StepRow(id=root, track_id=track_id, parent_id=None, line=0, number=0, label=AS_FOUND,
                                operation={"type": "as_found"}, change={}, created_at=now))  # fmt: skip
            for position, (version, name, kind) in enumerate(((sung, "As sung", "as_sung"), (tuned, "Tuned", "tuned"))):
                session.add(VersionRow(id=version, track_id=track_id, name=name, note="", kind=kind, head_id=root,
                                       tip_id=root, position=position, created_at=now, removed_at=None))  # fmt: skip
            chosen = {"analysis_id": analysis_id, "version_id": tuned}
            session.execute(update(TrackRow).where(TrackRow.id == track_id).values(**chosen))

    def step(self, step_id: str) -> Step:
        """One step, or NotFoundError."""
        with self._database.read() as session:
            return record_of(Step, step_row(session, step_id))

    def place(self, step_id: str) -> StepEntry:
        """Where a step stands, without reading what it changed; or NotFoundError."""
        found = _PLACE.one(self._database, id=step_id)
        if found is None:
            raise NotFoundError(NO_STEP)
        return found

    def place_of(self, track_id: str, step_id: str) -> StepEntry:
        """The same for a step that must belong to a track."""
        found = _PLACE_OF.one(self._database, id=step_id, track_id=track_id)
        if found is None:
            self.place(step_id)
            raise NotFoundError(_NOT_OF_TRACK)
        return found

    def trail(self, step: StepEntry) -> tuple[dict[str, Any] | None, list[Step]]:
        """The nearest stored content at or before a step, and the steps that lead on from there, oldest first.

        Without a stored content the steps begin after the root.
        """
        with self._database.read() as session:
            found: list[Step] = []
            place: StepRow | None = step_row(session, step.id)
            while place is not None:
                kept, first = nearest_snapshot(session, place)
                rows = line_of(session, place, first)
                found[:0] = [record_of(Step, row) for row in rows if row.parent_id is not None]
                if kept is not None:
                    return kept, found
                place = session.get(StepRow, rows[0].parent_id) if rows[0].parent_id else None
            return None, found

    def keep_snapshot(self, step_id: str, content: dict[str, Any]) -> None:
        """Store the content of a step, so that loading it never walks far."""
        packed = zlib.compress(json.dumps(content, separators=(",", ":")).encode(), 3)
        with self._database.write() as session:
            if session.get(StepRow, step_id) is not None and session.get(SnapshotRow, step_id) is None:
                session.add(SnapshotRow(step_id=step_id, content=packed))

    def forget_snapshots(self, track_id: str) -> None:
        """Take away what is kept of a track's steps; they are gone through from the first on until it is kept again."""
        with self._database.write() as session:
            steps = select(StepRow.id).where(StepRow.track_id == track_id)
            session.execute(delete(SnapshotRow).where(SnapshotRow.step_id.in_(steps)))

    def append(self, new: Sequence[NewStep], *, logged: tuple[str, str] | None = None) -> list[tuple[Version, Step]]:
        """Add steps to versions, all or none; a version that moved on from its `base` is a StaleEditError.

        With `logged`, a song and a label, they are one step of that song: made at once and taken back at once.
        """
        shared = new_id() if logged and new else None
        with self._database.write() as session:
            done = []
            for one in new:
                version = _version_at(session, one.version_id, one.base)
                parent = step_row(session, one.base)
                row = StepRow(id=new_id(), track_id=version.track_id, parent_id=parent.id,
                              line=line_after(session, parent), number=parent.number + 1, label=one.label,
                              operation=one.operation, change=one.change, created_at=time.time(),
                              shared=shared, made_by=made_by.get())  # fmt: skip
                session.add(row)
                version.head_id = version.tip_id = row.id
                session.flush()
                done.append((record_of(Version, version), record_of(Step, row)))
            if logged and done:
                heads = {f"head.{step.track_id}": Pair(step.parent_id, step.id) for _version, step in done}
                log_step(session, *logged, heads, step_id=shared)
            return done

    def move_heads(self, moves: Sequence[Move], *, shared: str | None = None, state: str = "") -> list[Version]:
        """Move heads of versions, all or none; redo leads on where it did when the new head is on the way there.

        The step of the song that they belong to, `shared`, goes along into a `state`.
        """
        with self._database.write() as session:
            moved = []
            for move in moves:
                version = _version_at(session, move.version_id, move.base)
                target = _step_of(session, version.track_id, move.to)
                if not on_the_way(session, target, version.tip_id):
                    version.tip_id = target.id
                version.head_id = target.id
                session.flush()
                moved.append(record_of(Version, version))
            if shared:
                mark(session, shared, state)
            return moved

    def shared_with(self, step: StepEntry) -> list[Step]:
        """The steps of other tracks that were made at once with a step."""
        if step.shared is None:
            return []
        with self._database.read() as session:
            rows = session.scalars(select(StepRow).where(StepRow.shared == step.shared, StepRow.id != step.id))
            return [record_of(Step, row) for row in rows]

    def made_at_once(self, shared: str) -> list[tuple[str, str]]:
        """The tracks that a step of a song was made on, with the step of each."""
        with self._database.read() as session:
            rows = session.execute(select(StepRow.track_id, StepRow.id).where(StepRow.shared == shared))
            return [(track_id, step_id) for track_id, step_id in rows]

    def leads_to(self, step_id: str, head_id: str) -> bool:
        """Whether a step is on the way from the root to another one of its track, or is that one."""
        with self._database.read() as session:
            return on_the_way(session, step_row(session, step_id), head_id)

    def next_towards(self, head: StepEntry, tip_id: str) -> StepEntry | None:
        """The step after `head` on the way to a tip; None at the tip itself."""
        with self._database.read() as session:
            tip = step_row(session, tip_id)
            if tip.number <= head.number:
                return None
            for row in ancestors(session, tip, head.number + 1):
                if row.number == head.number + 1:
                    return _entry(row) if row.parent_id == head.id else None
            return None

    def path(self, step_id: str, *, before: int | None = None, most: int = 200) -> list[StepEntry]:
        """The steps that lead to a step, newest first; those with a number below `before` when that is given."""
        with self._database.read() as session:
            found: list[StepEntry] = []
            place: StepRow | None = step_row(session, step_id)
            while place is not None and len(found) < most:
                top = place.number if before is None else min(place.number, before - 1)
                rows = session.scalars(
                    select(StepRow)
                    .where(StepRow.track_id == place.track_id, StepRow.line == place.line, StepRow.number <= top)
                    .order_by(StepRow.number.desc())
                    .limit(most - len(found))
                    .options(undefer_group("what"))
                )
                found += [_entry(row, first_place(row.change)) for row in rows]
                first = first_of_line(session, place)
                place = session.get(StepRow, first.parent_id) if first.parent_id else None
            return found

    def branches(
        self, track_id: str, way: Mapping[int, int], *, of_comps: bool, most: int = 100
    ) -> list[tuple[StepEntry, int]]:
        """The ends of all lines that go on beside a way through the tree, newest first, and how many steps each has.

        `way` holds the last number on the way for every line that it runs through, see `way_to`.  Lines of comps and of
        versions are told apart by their last operation.
        """
        ends = (
            select(StepRow.line, func.min(StepRow.number).label("first"), func.max(StepRow.number).label("number"))
            .where(StepRow.track_id == track_id)
            .group_by(StepRow.line)
            .subquery()
        )
        with self._database.read() as session:
            rows = session.execute(
                select(StepRow, StepRow.operation, ends.c.first)
                .join(ends, (StepRow.line == ends.c.line) & (StepRow.number == ends.c.number))
                .where(StepRow.track_id == track_id)
                .order_by(text("step.rowid DESC"))  # as they were made, whatever the clock said
            )
            beside = ((row, row.number - way.get(row.line, first - 1)) for row, operation, first in rows
                      if (operation.get("type") in CHOOSING) == of_comps)  # fmt: skip
            return [(_entry(row), steps) for row, steps in beside if steps > 0][:most]

    def way_to(self, step_id: str) -> dict[int, int]:
        """The last number on every line that the way from the root to a step runs through."""
        with self._database.read() as session:
            place: StepRow | None = step_row(session, step_id)
            way: dict[int, int] = {}
            while place is not None:
                way[place.line] = place.number
                first = first_of_line(session, place)
                place = session.get(StepRow, first.parent_id) if first.parent_id else None
            return way

    def versions(self, track_id: str, *, removed: bool = False) -> list[Version]:
        """The versions of a track in their order; with `removed` those that were removed."""
        return (_REMOVED if removed else _VERSIONS).all(self._database, track_id=track_id)

    def version(self, version_id: str) -> Version:
        """One version, or NotFoundError."""
        found = _VERSION.one(self._database, id=version_id)
        if found is None:
            raise NotFoundError(_NO_VERSION)
        return found

    def heads(self, song_id: str) -> dict[str, dict[str, str]]:
        """Where every version of a song's tracks stands: track to version to step."""
        found: dict[str, dict[str, str]] = {}
        with self._database.look() as connection:
            for track_id, version_id, head_id in connection.execute(_HEADS, {"song_id": song_id}):
                found.setdefault(track_id, {})[version_id] = head_id
        return found

    def root_of(self, track_id: str) -> str:
        """The id of the step “as found” of a track."""
        with self._database.read() as session:
            return session.scalars(
                select(StepRow.id).where(StepRow.track_id == track_id, StepRow.parent_id.is_(None))
            ).one()  # fmt: skip

    def add_version(self, track_id: str, *, name: str, note: str, head_id: str, kind: str = "made") -> Version:
        """A new version, or comp, whose head is a step of the track."""
        with self._database.write() as session:
            _step_of(session, track_id, head_id)
            last = session.scalar(select(func.max(VersionRow.position)).where(VersionRow.track_id == track_id))
            row = VersionRow(id=new_id(), track_id=track_id, name=name, note=note, kind=kind, head_id=head_id,
                             tip_id=head_id, position=(last or 0) + 1, created_at=time.time(),
                             removed_at=None)  # fmt: skip
            session.add(row)
            session.flush()
            return record_of(Version, row)

    def change_version(self, version_id: str, **values: Any) -> Version:
        """Change name, note or removal of a version."""
        with self._database.write() as session:
            row = _version_row(session, version_id)
            for name, value in values.items():
                setattr(row, name, value)
            session.flush()
            return record_of(Version, row)


def _step_of(session: Session, track_id: str, step_id: str) -> StepRow:
    row = step_row(session, step_id)
    if row.track_id != track_id:
        raise NotFoundError(_NOT_OF_TRACK)
    return row


def _version_row(session: Session, version_id: str) -> VersionRow:
    row = session.get(VersionRow, version_id)
    if row is None:
        raise NotFoundError(_NO_VERSION)
    return row


def refuse_change(version: Version, base: str) -> None:
    """Raise StaleEditError when a version's head is not `base`, and ParameterError when it may not be changed."""
    if version.head_id != base:
        raise StaleEditError(
            "This version was changed elsewhere in the meantime; the newer state is shown now.", current=version.head_id
        )
    if version.read_only:
        raise ParameterError("As sung stays as it was recorded. Switch to another version, or make one from here.")
    if version.removed_at is not None:
        raise ParameterError("This version was removed; bring it back before you change it.")


def _version_at(session: Session, version_id: str, base: str) -> VersionRow:
    """A version that may be changed and whose head is `base`."""
    row = _version_row(session, version_id)
    refuse_change(record_of(Version, row), base)
    return row


def _entry(row: StepRow, at_s: float | None = None) -> StepEntry:
    return StepEntry(
        row.id, row.parent_id, row.line, row.number, row.label, row.created_at, at_s, row.shared, row.made_by
    )


def first_place(change: dict[str, Any]) -> float | None:
    """Where in the recording a change begins, in seconds; None for one without a place."""
    starts = []
    for before, after in change.values():
        state = after or before or {}
        inner = state.get("note") or state.get("air") or state.get("gap") or {}
        if "start_s" in inner:
            starts.append(float(inner["start_s"]))
    return min(starts, default=None)
