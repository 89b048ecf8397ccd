"""The words of phrases live with the track that sings them; those of a song go to its leads."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("track", sa.Column("words", sa.JSON, nullable=False, server_default="{}"))
    op.execute(
        "UPDATE track SET words = (SELECT song.words FROM song WHERE song.id = track.song_id) WHERE track.role = 'lead'"
    )
    op.drop_column("song", "words")


def downgrade() -> None:
    op.add_column("song", sa.Column("words", sa.JSON, nullable=False, server_default="{}"))
    op.drop_column("track", "words")
