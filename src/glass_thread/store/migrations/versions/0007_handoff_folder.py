"""The hand-off folder of a song, and what was brought in from it."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.add_column("song", sa.Column("handoff", sa.String, nullable=True))
    op.add_column("song", sa.Column("handoff_seen", sa.JSON, nullable=False, server_default="{}"))


def downgrade() -> None:
    op.drop_column("song", "handoff_seen")
    op.drop_column("song", "handoff")
