"""Tune passes saved by name."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "tune_pass",
        sa.Column("name", sa.String(60), primary_key=True),
        sa.Column("settings", sa.JSON, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("tune_pass")
