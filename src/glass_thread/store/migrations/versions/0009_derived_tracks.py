"""Tracks that are made of another one share its recording; every track has a place between left and right."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"


def _rebuilt(change) -> None:  # type: ignore[no-untyped-def]
    """Rebuild the table of tracks; references are not looked at while tables are migrated, so nothing goes with it."""
    with op.batch_alter_table("track") as table:
        change(table)


def upgrade() -> None:
    def change(table) -> None:  # type: ignore[no-untyped-def]
        table.drop_constraint("one_copy_per_song", type_="unique")
        table.add_column(sa.Column("derived_from", sa.String(32), nullable=True))
        table.add_column(sa.Column("pan", sa.Float, nullable=False, server_default="0"))

    _rebuilt(change)
    recorded = sa.text("derived_from IS NULL")
    op.create_index("one_copy_per_song", "track", ["song_id", "audio_hash"], unique=True, sqlite_where=recorded)


def downgrade() -> None:
    op.execute("DELETE FROM track WHERE derived_from IS NOT NULL")
    op.drop_index("one_copy_per_song", "track")

    def change(table) -> None:  # type: ignore[no-untyped-def]
        table.drop_column("pan")
        table.drop_column("derived_from")
        table.create_unique_constraint("one_copy_per_song", ["song_id", "audio_hash"])

    _rebuilt(change)
