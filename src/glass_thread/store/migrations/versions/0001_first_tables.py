"""First tables: songs, tracks, steps, tasks."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None


def upgrade() -> None:
    op.create_table(
        "song",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("title", sa.String, nullable=False),
        sa.Column("tonic", sa.Integer, nullable=False),
        sa.Column("scale", sa.String, nullable=False),
        sa.Column("classes", sa.JSON, nullable=False),
        sa.Column("reference_hz", sa.Float, nullable=False),
        sa.Column("tempo", sa.Float, nullable=False),
        sa.Column("beats_per_bar", sa.Integer, nullable=False),
        sa.Column("beat_unit", sa.Integer, nullable=False),
        sa.Column("bar_one_s", sa.Float, nullable=False),
        sa.Column("key_chosen", sa.Boolean, nullable=False),
        sa.Column("words", sa.JSON, nullable=False),
        sa.Column("done", sa.JSON, nullable=False),
        sa.Column("created_at", sa.Float, nullable=False),
    )
    op.create_table(
        "track",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("song_id", sa.String(32), sa.ForeignKey("song.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("role", sa.String, nullable=False),
        sa.Column("audio_hash", sa.String(64), nullable=False),
        sa.Column("sample_rate", sa.Integer, nullable=False),
        sa.Column("channels", sa.Integer, nullable=False),
        sa.Column("frames", sa.Integer, nullable=False),
        sa.Column("container", sa.String, nullable=False),
        sa.Column("subtype", sa.String, nullable=False),
        sa.Column("time_reference", sa.BigInteger),
        sa.Column("offset_s", sa.Float, nullable=False),
        sa.Column("level_db", sa.Float, nullable=False),
        sa.Column("muted", sa.Boolean, nullable=False),
        sa.Column("ready", sa.Boolean, nullable=False),
        sa.Column("notes_found", sa.Integer, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("cursor", sa.Integer, nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.UniqueConstraint("song_id", "audio_hash", name="one_copy_per_song"),
    )
    op.create_table(
        "step",
        sa.Column("track_id", sa.String(32), sa.ForeignKey("track.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("operation", sa.JSON, nullable=False),
        sa.Column("change", sa.JSON, nullable=False),
        sa.Column("created_at", sa.Float, nullable=False),
    )
    op.create_table(
        "task",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("song_id", sa.String(32), sa.ForeignKey("song.id", ondelete="CASCADE")),
        sa.Column("track_id", sa.String(32)),
        sa.Column("state", sa.String, nullable=False),
        sa.Column("stage", sa.String, nullable=False),
        sa.Column("share", sa.Float, nullable=False),
        sa.Column("message", sa.String, nullable=False),
        sa.Column("wanted", sa.JSON, nullable=False),
        sa.Column("result", sa.JSON, nullable=False),
        sa.Column("cancel", sa.Boolean, nullable=False),
        sa.Column("created_at", sa.Float, nullable=False),
    )


def downgrade() -> None:
    for table in ("task", "step", "track", "song"):
        op.drop_table(table)
