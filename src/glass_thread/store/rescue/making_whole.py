"""A database in which everything holds together again, after rows of it were lost."""

from __future__ import annotations

import time
from collections.abc import Mapping
from typing import Any

from sqlalchemy import delete, select, update
from sqlalchemy.orm import Session

from ..database import Database
from ..history import AS_FOUND
from ..models import SnapshotRow, SongRow, StepRow, TrackRow, VersionRow
from ..records import new_id


def make_whole(database: Database, song: Mapping[str, Any]) -> list[str]:
    """Have everything that is there hold together; what was done, in words.

    Lost songs of tracks that are there are made up of the values of `song`, steps that cannot be reached and rows that
    belong to nothing are left out, and every track stands at a step that is there.
    """
    with database.write() as session:
        session.connection().exec_driver_sql("PRAGMA defer_foreign_keys=ON")
        told = _songs_again(session, song)
        told += [f"{count} rows of “{table}” that belong to lost ones were left out."
                 for table, count in _without_hold(session).items()]  # fmt: skip
        for track in session.execute(select(TrackRow.id, TrackRow.name).where(TrackRow.version_id.is_not(None))).all():
            told += [f"{track.name}: {words}" for words in _whole_history(session, track.id)]
    return told


def _songs_again(session: Session, song: Mapping[str, Any]) -> list[str]:
    lost = session.scalars(select(TrackRow.song_id).where(TrackRow.song_id.not_in(select(SongRow.id))).distinct()).all()
    titles = {song_id: f"Rescued song {number}" for number, song_id in enumerate(lost, 1)}
    for song_id, title in titles.items():
        session.add(SongRow(id=song_id, title=title, created_at=time.time(), done=[], **song))
    session.flush()
    return [f"A song was lost; its tracks are in “{title}”." for title in titles.values()]


def _without_hold(session: Session) -> dict[str, int]:
    """Take out rows that refer to rows which are not there; how many of each table."""
    gone: dict[str, int] = {}
    connection = session.connection()
    while broken := {(row[0], row[1]) for row in connection.exec_driver_sql("PRAGMA foreign_key_check").all()}:
        for table, number in broken:
            connection.exec_driver_sql(f'DELETE FROM "{table}" WHERE rowid = ?', (number,))
            gone[table] = gone.get(table, 0) + 1
    return gone


def _whole_history(session: Session, track_id: str) -> list[str]:
    """Leave only steps that can be reached from a track's beginning, and have every version stand at one."""
    asked = select(StepRow.id, StepRow.parent_id, StepRow.number, StepRow.created_at).where(
        StepRow.track_id == track_id
    )
    steps = session.execute(asked.order_by(StepRow.number)).all()
    told, root = [], next((step.id for step in steps if step.parent_id is None), None)
    if root is None:
        root = next((step.parent_id for step in steps if step.number == 1), new_id())
        session.add(StepRow(id=root, track_id=track_id, parent_id=None, line=0, number=0, label=AS_FOUND,
                            operation={"type": "as_found"}, change={}, created_at=0.0))  # fmt: skip
        told.append("its beginning was lost, and is made again.")
    reached, latest = {root}, (0.0, root)
    for step in steps:
        if step.parent_id in reached:
            reached.add(step.id)
            latest = max(latest, (step.created_at, step.id))
    lost = [step.id for step in steps if step.id not in reached]
    for step_id in lost:
        session.execute(delete(SnapshotRow).where(SnapshotRow.step_id == step_id))
        session.execute(delete(StepRow).where(StepRow.id == step_id))
    if lost:
        told.append(f"{len(lost)} steps that followed lost ones were left out.")
    return told + _versions_standing(session, track_id, root, reached, latest[1])


def _versions_standing(session: Session, track_id: str, root: str, reached: set[str], latest: str) -> list[str]:
    """Have every version of a track stand at a step that is there; a track keeps As sung and one to work on."""
    told = []
    known = session.scalars(select(VersionRow).where(VersionRow.track_id == track_id)).all()
    for one in known:
        if one.head_id in reached and one.tip_id in reached:
            continue
        if one.head_id not in reached:
            is_lost = one.kind == "comp"  # one without choices is none
            one.head_id = latest if one.kind in ("tuned", "made") else root
            one.removed_at = one.removed_at or (time.time() if is_lost else None)
            told.append(f"“{one.name}” " + ("was lost." if is_lost else "stands at the latest step that was left."))
        one.tip_id = one.head_id
    for position, (name, kind, head) in enumerate((("As sung", "as_sung", root), ("Tuned", "tuned", latest))):
        if not any(one.kind == kind for one in known):
            session.add(VersionRow(id=new_id(), track_id=track_id, name=name, note="", kind=kind, head_id=head,
                                   tip_id=head, position=position, created_at=0.0, removed_at=None))  # fmt: skip
            told.append(f"“{name}” was lost, and is made again.")
    session.flush()
    there = select(VersionRow.id).where(VersionRow.track_id == track_id)
    tuned = session.scalars(there.where(VersionRow.kind == "tuned")).first()
    session.execute(update(TrackRow).where(TrackRow.id == track_id, TrackRow.version_id.not_in(there))
                    .values(version_id=tuned))  # fmt: skip
    return told
