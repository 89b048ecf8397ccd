"""Steps get identity and a parent; versions, snapshots, analysis ids, the earlier key.

Every step and every undo position is kept: the steps of a track become one line under a new root, As sung is the root,
Tuned has its head where the old cursor stood and its tip at the last step that could be redone.
"""

import json
import time
import uuid
from pathlib import Path

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
FIRST_ANALYSIS, LAST_ANALYSIS = 1, 3


def upgrade() -> None:
    op.execute("ALTER TABLE step RENAME TO old_step")
    op.create_table(
        "step",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("track_id", sa.String(32), sa.ForeignKey("track.id", ondelete="CASCADE"), nullable=False),
        sa.Column("parent_id", sa.String(32)),
        sa.Column("line", sa.Integer, nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("label", sa.String, nullable=False),
        sa.Column("operation", sa.JSON, nullable=False),
        sa.Column("change", sa.JSON, nullable=False),
        sa.Column("created_at", sa.Float, nullable=False),
        sa.UniqueConstraint("track_id", "line", "number", name="one_step_a_place"),
    )
    op.create_table(
        "version",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("track_id", sa.String(32), sa.ForeignKey("track.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("name", sa.String, nullable=False),
        sa.Column("note", sa.String, nullable=False),
        sa.Column("kind", sa.String, nullable=False),
        sa.Column("head_id", sa.String(32), nullable=False),
        sa.Column("tip_id", sa.String(32), nullable=False),
        sa.Column("position", sa.Integer, nullable=False),
        sa.Column("created_at", sa.Float, nullable=False),
        sa.Column("removed_at", sa.Float),
    )
    op.create_table(
        "snapshot",
        sa.Column("step_id", sa.String(32), sa.ForeignKey("step.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("content", sa.LargeBinary, nullable=False),
    )
    op.add_column("track", sa.Column("analysis_id", sa.String(80)))
    op.add_column("track", sa.Column("version_id", sa.String(32)))
    op.add_column("song", sa.Column("earlier_key", sa.JSON))
    connection = op.get_bind()
    folder = Path(connection.engine.url.database or ".").parent
    for track_id, audio_hash, cursor, ready, role in connection.execute(
        sa.text("SELECT id, audio_hash, cursor, ready, role FROM track")
    ).all():
        if ready and role != "backing":
            _take_over(connection, track_id, _analysis_of(folder, audio_hash), cursor)
    op.execute("DROP TABLE old_step")
    op.execute("ALTER TABLE track DROP COLUMN revision")
    op.execute("ALTER TABLE track DROP COLUMN cursor")


def _analysis_of(folder: Path, audio_hash: str) -> str:
    """The analysis that the release before read: the newest there is."""
    for version in range(LAST_ANALYSIS, FIRST_ANALYSIS - 1, -1):
        if (folder / "analysis" / f"{audio_hash}-{version}.npz").is_file():
            return f"{audio_hash}-{version}"
    return f"{audio_hash}-{LAST_ANALYSIS}"


def _take_over(connection, track_id: str, analysis_id: str, cursor: int) -> None:  # type: ignore[no-untyped-def]
    now = time.time()
    insert = sa.text(
        "INSERT INTO step (id, track_id, parent_id, line, number, label, operation, change, created_at) "
        "VALUES (:id, :track, :parent, 0, :number, :label, :operation, :change, :at)"
    )
    ids = [uuid.uuid4().hex]
    connection.execute(insert, {"id": ids[0], "track": track_id, "parent": None, "number": 0, "label": "As found",
                                "operation": json.dumps({"type": "as_found"}), "change": "{}", "at": now})  # fmt: skip
    for number, label, operation, change, created_at in connection.execute(
        sa.text(
            "SELECT number, label, operation, change, created_at FROM old_step WHERE track_id = :t ORDER BY number"
        ),
        {"t": track_id},
    ).all():
        ids.append(uuid.uuid4().hex)
        connection.execute(insert, {"id": ids[-1], "track": track_id, "parent": ids[-2], "number": number,
                                    "label": label, "operation": operation, "change": change,
                                    "at": created_at})  # fmt: skip
    tuned = uuid.uuid4().hex
    for version, name, kind, head, tip, position in (
        (uuid.uuid4().hex, "As sung", "as_sung", ids[0], ids[0], 0),
        (tuned, "Tuned", "tuned", ids[min(cursor, len(ids) - 1)], ids[-1], 1),
    ):
        connection.execute(
            sa.text("INSERT INTO version (id, track_id, name, note, kind, head_id, tip_id, position, created_at) "
                    "VALUES (:id, :track, :name, '', :kind, :head, :tip, :position, :at)"),
            {"id": version, "track": track_id, "name": name, "kind": kind, "head": head, "tip": tip,
             "position": position, "at": now},
        )  # fmt: skip
    connection.execute(
        sa.text("UPDATE track SET analysis_id = :a, version_id = :v WHERE id = :t"),
        {"a": analysis_id, "v": tuned, "t": track_id},
    )
    _point_prints_at_steps(connection, track_id, ids)


def _point_prints_at_steps(connection, track_id: str, ids: list[str]) -> None:  # type: ignore[no-untyped-def]
    """Prints that wait, or were made, name the step they are of."""
    for task_id, wanted in connection.execute(
        sa.text("SELECT id, wanted FROM task WHERE track_id = :t AND kind = 'print'"), {"t": track_id}
    ).all():
        data = json.loads(wanted)
        number = data.pop("step", None)
        data.pop("step_made", None)
        if isinstance(number, int) and 0 <= number < len(ids):
            data["step_id"] = ids[number]
        connection.execute(sa.text("UPDATE task SET wanted = :w WHERE id = :i"), {"w": json.dumps(data), "i": task_id})


def downgrade() -> None:
    raise NotImplementedError("A folder with branches and versions does not fit the release before.")
