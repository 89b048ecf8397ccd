"""Markers of a song: places with names."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.add_column("song", sa.Column("markers", sa.JSON, nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("song", "markers")
