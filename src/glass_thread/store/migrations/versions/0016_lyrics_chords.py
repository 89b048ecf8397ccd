"""Tracks keep what was laid of their words by hand; songs their language and the chords that were typed."""

import sqlalchemy as sa
from alembic import op

revision = "0016"
down_revision = "0015"


def upgrade() -> None:
    op.add_column("track", sa.Column("laid", sa.JSON, nullable=False, server_default="{}"))
    op.add_column("song", sa.Column("language", sa.String, nullable=False, server_default=""))
    op.add_column("song", sa.Column("chords", sa.JSON, nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("track", "laid")
    op.drop_column("song", "language")
    op.drop_column("song", "chords")
