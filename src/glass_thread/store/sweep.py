"""Files that nothing in the database names any more are taken away; what is used stays."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import ColumnElement, Connection, Text, cast, select
from sqlalchemy.orm import Session

from ..formats.atomic import PART
from .database import Database
from .files.analysis_cache import analysis_id_of
from .models import PrintRow, StepRow, TaskRow, TrackRow


@dataclass(frozen=True)
class Swept:
    """How many files were taken away and the bytes they held."""

    files: int
    size: int


def sweep(database: Database, folder: Path) -> Swept:
    """Take away recordings, analyses and prints of removed songs, removed tracks and failed imports.

    Recordings enter the folder inside the transaction that stores their track, so under the write lock none is between
    the two. Prints are left alone while one is being written.
    """
    files, size = 0, 0
    with database.write() as session:
        for place, names in _used(session).items():
            for path in (folder / place).iterdir():
                if path.name in names or path.name.endswith(PART):
                    continue
                size += path.stat().st_size
                path.unlink()
                files += 1
    return Swept(files, size)


def used_files(database: Database) -> dict[str, set[str]]:
    """Names in use by folder, but for what can be made again at any time."""
    with database.read() as session:
        used = _used(session)
        prints = set(session.scalars(select(PrintRow.file)))
    return {"audio": used["audio"], "analysis": used["analysis"], "prints": prints}


def _used(session: Session) -> dict[str, set[str]]:
    """Names in use by folder; a folder that is not in it must not be touched now."""
    tracks = session.execute(select(TrackRow.id, TrackRow.audio_hash, TrackRow.analysis_id)).all()
    hashes = {audio_hash for _id, audio_hash, _analysis in tracks}
    analyses = {analysis for _id, _hash, analysis in tracks if analysis} | {analysis_id_of(one) for one in hashes}
    borrowed = lent(session.connection())
    hashes |= {one["audio"] for one in borrowed}
    analyses |= {one["analysis"] for one in borrowed}
    used = {"audio": hashes, "unpacked": hashes, "analysis": {f"{one}.npz" for one in analyses}}
    under_way = select(TaskRow.id).where(TaskRow.kind == "print", TaskRow.state.in_(("waiting", "running")))
    if not session.execute(under_way).all():
        known = {track_id for track_id, _hash, _analysis in tracks}
        prints = session.execute(select(PrintRow.track_id, PrintRow.file)).all()
        used["prints"] = {file for track_id, file in prints if track_id in known}
    return used


def lent(connection: Connection, *where: ColumnElement[bool]) -> list[dict[str, Any]]:
    """What any step borrows, or any of some steps: its recording may be of a track that was removed since."""
    text = cast(StepRow.change, Text)
    changes = connection.execute(select(StepRow.change).where(text.contains('"borrow": {'), *where)).scalars()
    states = (state for change in changes for pair in change.values() for state in pair if state)
    return [state["borrow"] for state in states if "borrow" in state]
