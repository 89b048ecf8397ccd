"""A song has a tuning, a reference note and changes of key."""

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"


def upgrade() -> None:
    op.add_column("song", sa.Column("temperament", sa.JSON, nullable=False, server_default='{"name": "equal"}'))
    op.add_column("song", sa.Column("reference_key", sa.Integer, nullable=False, server_default="69"))
    op.add_column("song", sa.Column("key_changes", sa.JSON, nullable=False, server_default="[]"))


def downgrade() -> None:
    for name in ("key_changes", "reference_key", "temperament"):
        op.execute(f"ALTER TABLE song DROP COLUMN {name}")
