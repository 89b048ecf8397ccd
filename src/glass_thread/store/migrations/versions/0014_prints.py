"""Prints are records of their own, whatever becomes of the tasks that made them."""

import json

import sqlalchemy as sa
from alembic import op

revision = "0014"
down_revision = "0013"

_FIGURES = ("untouched_share", "moved_share", "peak_dbfs", "notes_changed", "air_changed", "integrated_lufs",
            "true_peak_dbtp", "borrowed_share", "borrowed", "displaced")  # fmt: skip


def upgrade() -> None:
    op.create_table(
        "print",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("song_id", sa.String(32), sa.ForeignKey("song.id", ondelete="CASCADE"), nullable=False),
        sa.Column("track_id", sa.String(32), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("file", sa.String, nullable=False),
        sa.Column("shown_name", sa.String, nullable=False),
        sa.Column("made_of", sa.JSON, nullable=False),
        sa.Column("figures", sa.JSON, nullable=False),
        sa.Column("handed_over", sa.String, nullable=True),
        sa.Column("trouble", sa.String, nullable=False, server_default=""),
        sa.Column("created_at", sa.Float, nullable=False),
        sa.UniqueConstraint("song_id", "number", name="one_print_a_number"),
    )
    connection = op.get_bind()
    rows = connection.exec_driver_sql(
        "SELECT id, song_id, track_id, wanted, result, created_at FROM task "
        "WHERE kind = 'print' AND state = 'done' AND song_id IS NOT NULL AND track_id IS NOT NULL ORDER BY created_at"
    ).all()
    numbers: dict[str, int] = {}
    for task_id, song_id, track_id, wanted, result, created_at in rows:
        made_of, found = json.loads(wanted), json.loads(result)
        if "file" not in found:
            continue
        numbers[song_id] = numbers.get(song_id, 0) + 1
        values = {
            "id": task_id, "song": song_id, "track": track_id, "number": numbers[song_id], "file": found["file"],
            "name": found.get("shown_name") or found["file"], "made_of": json.dumps(made_of), "at": created_at,
            "figures": json.dumps({name: found[name] for name in _FIGURES if name in found}),
        }  # fmt: skip
        connection.execute(
            sa.text("INSERT INTO print (id, song_id, track_id, number, file, shown_name, made_of, figures, created_at) "
                    "VALUES (:id, :song, :track, :number, :file, :name, :made_of, :figures, :at)"),
            values,
        )  # fmt: skip


def downgrade() -> None:
    op.drop_table("print")
