"""A recorded track names who sings it."""

import sqlalchemy as sa
from alembic import op

revision = "0011"
down_revision = "0010"


def upgrade() -> None:
    op.add_column("track", sa.Column("singer", sa.String, nullable=False, server_default=""))


def downgrade() -> None:
    op.execute("ALTER TABLE track DROP COLUMN singer")
