"""Whether a song's tempo was chosen, and how far each track was when it was last looked at."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.add_column("song", sa.Column("tempo_chosen", sa.Boolean, nullable=False, server_default="0"))
    op.execute("UPDATE song SET tempo_chosen = 1 WHERE tempo <> 120 OR beats_per_bar <> 4 OR bar_one_s <> 0")
    op.add_column("track", sa.Column("progress", sa.JSON, nullable=True))


def downgrade() -> None:
    op.drop_column("song", "tempo_chosen")
    op.drop_column("track", "progress")
