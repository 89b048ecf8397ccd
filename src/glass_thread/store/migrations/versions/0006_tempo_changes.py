"""Changes of tempo and meter in a song."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("song", sa.Column("tempo_changes", sa.JSON, nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("song", "tempo_changes")
