"""All rows of one song as they stand at one moment, and the files they name."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from sqlalchemy import ColumnElement, Select, Table, literal_column, null, select
from sqlalchemy.engine import Connection

from ..database import Database
from ..models import Base, PrintRow, SongRow, SongStepRow, StepRow, TrackRow, VersionRow
from ..sweep import lent

_AT_ONCE = 100
TABLES: dict[str, type[Base]] = {
    "song": SongRow, "song_step": SongStepRow, "track": TrackRow, "step": StepRow, "version": VersionRow,
    "print": PrintRow,
}  # fmt: skip
# Where folders of this machine are, which is nobody else's affair, and counts that are made again.
_LEFT_OUT = {"song": {"handoff", "handoff_seen"}, "track": {"progress"}}
HANDOFF = "song.handoff"


class SongRows:
    """The rows of a song, read in one transaction."""

    def __init__(self, connection: Connection, song_id: str) -> None:
        self._connection, self._song_id = connection, song_id
        self._tracks = select(TrackRow.id).where(TrackRow.song_id == song_id)

    def of(self, name: str) -> Iterator[dict[str, Any]]:
        """The rows of one of `TABLES`, in the order in which they were made."""
        table = TABLES[name].__table__
        assert isinstance(table, Table)
        asked = self._asked(table, table.c).execution_options(yield_per=_AT_ONCE)
        for row in self._connection.execute(asked).mappings():
            kept = {key: value for key, value in row.items() if key not in _LEFT_OUT.get(name, set())}
            if name == "song_step" and HANDOFF in kept["change"]:
                kept["change"] = {key: pair for key, pair in kept["change"].items() if key != HANDOFF}
            if name != "song_step" or kept["change"]:
                yield kept

    def files(self) -> tuple[dict[str, str], set[str], dict[str, str]]:
        """Recordings by hash with a name each, the ids of analyses, and prints by file with the name they are shown by;
        with those of words that are borrowed from elsewhere."""
        recordings: dict[str, str] = {}
        analyses: set[str] = set()
        tracks = select(TrackRow.audio_hash, TrackRow.name, TrackRow.container, TrackRow.analysis_id)
        asked = tracks.where(TrackRow.song_id == self._song_id).order_by(TrackRow.position)
        for audio, name, container, analysis in self._connection.execute(asked):
            recordings.setdefault(audio, f"{name}.{container.lower()}")
            analyses |= {analysis} if analysis else set()
        for one in lent(self._connection, StepRow.track_id.in_(self._tracks)):
            recordings.setdefault(one["audio"], "borrowed")
            analyses.add(one["analysis"])
        prints = select(PrintRow.file, PrintRow.shown_name).where(PrintRow.song_id == self._song_id)
        return recordings, analyses, {file: shown for file, shown in self._connection.execute(prints)}

    def unready(self) -> list[str]:
        """The names of tracks that are still being looked at."""
        rows = self._tracks.with_only_columns(TrackRow.name)
        waiting = rows.where(TrackRow.ready.is_(False), TrackRow.removed_at.is_(null()))
        return list(self._connection.execute(waiting).scalars())

    def _asked(self, table: Table, columns: Any) -> Select[Any]:
        wanted: ColumnElement[bool] = table.c.id == self._song_id
        if "track_id" in table.c and table.name in ("step", "version"):
            wanted = table.c.track_id.in_(self._tracks)
        elif "song_id" in table.c:
            wanted = table.c.song_id == self._song_id
        return select(*columns).where(wanted).order_by(literal_column(f"{table.name}.rowid"))


@contextmanager
def song_rows(database: Database, song_id: str) -> Iterator[SongRows]:
    """The rows of a song as they stand now, whatever is written meanwhile."""
    with database.look() as connection:
        connection.exec_driver_sql("BEGIN")
        try:
            yield SongRows(connection, song_id)
        finally:
            connection.exec_driver_sql("ROLLBACK")
