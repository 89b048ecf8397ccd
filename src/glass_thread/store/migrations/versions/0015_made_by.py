"""Steps say with which sign-in code they were made."""

import sqlalchemy as sa
from alembic import op

revision = "0015"
down_revision = "0014"


def upgrade() -> None:
    for table in ("step", "song_step"):
        op.add_column(table, sa.Column("made_by", sa.String, nullable=False, server_default=""))


def downgrade() -> None:
    for table in ("step", "song_step"):
        op.drop_column(table, "made_by")
