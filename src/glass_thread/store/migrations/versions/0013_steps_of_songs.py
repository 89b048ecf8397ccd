"""A song has steps of its own; songs and tracks that were removed can be brought back until they are swept."""

import json
import uuid

import sqlalchemy as sa
from alembic import op

revision = "0013"
down_revision = "0012"

_KEYS = ("tonic", "scale", "classes", "reference_hz", "reference_key", "temperament", "key_changes", "key_chosen")
_UNKNOWN = {"reference_key": 69, "temperament": {"name": "equal"}, "key_changes": []}
_OF_JSON = ("classes", "temperament", "key_changes")


def upgrade() -> None:
    op.create_table(
        "song_step",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("song_id", sa.String(32), sa.ForeignKey("song.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("turn", sa.Integer, nullable=False),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("change", sa.JSON, nullable=False),
        sa.Column("created_at", sa.Float, nullable=False),
        sa.UniqueConstraint("song_id", "number", name="one_song_step_a_place"),
    )
    op.create_index("song_steps_by_turn", "song_step", ["song_id", "turn"])
    op.add_column("song", sa.Column("removed_at", sa.Float, nullable=True))
    op.add_column("song", sa.Column("start_s", sa.Float, nullable=True))
    # Earlier releases took stamps of one to three hours to count from the first hour, and others from midnight.
    op.execute(
        "UPDATE song SET start_s = (SELECT CASE WHEN max(time_reference * 1.0 / sample_rate BETWEEN 3600 AND 10800) "
        "THEN 3600.0 ELSE 0.0 END FROM track WHERE track.song_id = song.id AND time_reference IS NOT NULL) "
        "WHERE EXISTS (SELECT 1 FROM track WHERE track.song_id = song.id AND time_reference IS NOT NULL)"
    )
    op.add_column("track", sa.Column("removed_at", sa.Float, nullable=True))
    op.drop_index("one_copy_per_song", "track")
    there = sa.text("derived_from IS NULL AND removed_at IS NULL")
    op.create_index("one_copy_per_song", "track", ["song_id", "audio_hash"], unique=True, sqlite_where=there)
    _keep_earlier_keys(op.get_bind())
    op.execute("ALTER TABLE song DROP COLUMN earlier_key")
    op.execute("UPDATE song SET handoff_seen = json_object(handoff, json(handoff_seen)) WHERE handoff IS NOT NULL")


def _keep_earlier_keys(connection: sa.Connection) -> None:
    """The key that a song had before becomes a step that can be taken back."""
    columns = ", ".join((*_KEYS, "id", "earlier_key", "created_at"))
    rows = connection.exec_driver_sql(f"SELECT {columns} FROM song WHERE earlier_key IS NOT NULL").mappings().all()
    for row in rows:
        earlier = json.loads(row["earlier_key"])
        if not isinstance(earlier, dict):
            continue
        now = {name: json.loads(row[name]) if name in _OF_JSON else row[name] for name in _KEYS}
        now["key_chosen"] = bool(now["key_chosen"])
        before = {**_UNKNOWN, **earlier}
        change = {f"song.{name}": [before.get(name, now[name]), now[name]] for name in _KEYS
                  if before.get(name, now[name]) != now[name]}  # fmt: skip
        connection.execute(
            sa.text("INSERT INTO song_step VALUES (:id, :song, 1, 1, 'done', 'Key', :change, :at)"),
            {"id": uuid.uuid4().hex, "song": row["id"], "change": json.dumps(change), "at": row["created_at"]},
        )


def downgrade() -> None:
    op.add_column("song", sa.Column("earlier_key", sa.JSON, nullable=True))
    op.execute("DELETE FROM track WHERE removed_at IS NOT NULL")
    op.execute("DELETE FROM song WHERE removed_at IS NOT NULL")
    op.execute("UPDATE song SET handoff_seen = coalesce(json_extract(handoff_seen, '$.\"' || handoff || '\"'), '{}')")
    op.drop_index("one_copy_per_song", "track")
    recorded = sa.text("derived_from IS NULL")
    op.create_index("one_copy_per_song", "track", ["song_id", "audio_hash"], unique=True, sqlite_where=recorded)
    op.execute("ALTER TABLE track DROP COLUMN removed_at")
    op.execute("ALTER TABLE song DROP COLUMN removed_at")
    op.execute("ALTER TABLE song DROP COLUMN start_s")
    op.drop_table("song_step")
