"""A track can be heard in the stack as another version than is worked on; steps of several tracks belong together."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"


def upgrade() -> None:
    op.add_column("track", sa.Column("heard_version", sa.String(32), nullable=True))
    op.add_column("step", sa.Column("shared", sa.String(32), nullable=True))
    op.create_index("steps_made_at_once", "step", ["shared"], sqlite_where=sa.text("shared IS NOT NULL"))


def downgrade() -> None:
    op.drop_index("steps_made_at_once", "step")
    op.execute("ALTER TABLE step DROP COLUMN shared")
    op.execute("ALTER TABLE track DROP COLUMN heard_version")
