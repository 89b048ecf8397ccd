"""Walks through the tree of steps: a line at a time, never step by step."""

from __future__ import annotations

import json
import zlib
from collections.abc import Iterator
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session, undefer_group

from ..core.signal.errors import NotFoundError
from .models import SnapshotRow, StepRow

NO_STEP = "There is no such step; the track it belonged to may have been removed."


def step_row(session: Session, step_id: str) -> StepRow:
    """One row, or NotFoundError."""
    row = session.get(StepRow, step_id)
    if row is None:
        raise NotFoundError(NO_STEP)
    return row


def first_of_line(session: Session, row: StepRow) -> StepRow:
    """The first step of a row's line."""
    return session.scalars(
        select(StepRow).where(StepRow.track_id == row.track_id, StepRow.line == row.line).order_by(StepRow.number)
        .limit(1)
    ).one()  # fmt: skip


def line_of(session: Session, row: StepRow, first: int) -> list[StepRow]:
    """The steps of a row's line from number `first` to the row, oldest first; never empty."""
    return list(
        session.scalars(
            select(StepRow)
            .where(StepRow.track_id == row.track_id, StepRow.line == row.line,
                   StepRow.number.between(first, row.number))
            .order_by(StepRow.number)
            .options(undefer_group("what"))
        )
    )  # fmt: skip


def ancestors(session: Session, row: StepRow, lowest: int) -> Iterator[StepRow]:
    """For each line on the way back from a row: its step numbered `lowest`, if the way passes there, else its first."""
    place: StepRow | None = row
    while place is not None:
        wanted = session.scalars(
            select(StepRow).where(
                StepRow.track_id == place.track_id, StepRow.line == place.line, StepRow.number == lowest
            )
        ).first()  # fmt: skip
        if wanted is not None and wanted.number <= place.number:
            yield wanted
            return
        first = first_of_line(session, place)
        yield first
        place = session.get(StepRow, first.parent_id) if first.parent_id else None


def on_the_way(session: Session, row: StepRow, to: str) -> bool:
    """Whether a row is on the way from the root to a step, or is that one."""
    return any(one.id == row.id for one in ancestors(session, step_row(session, to), row.number))


def nearest_snapshot(session: Session, row: StepRow) -> tuple[dict[str, Any] | None, int]:
    """The latest readable content kept on a row's line up to the row, and the number after it; else None and 0."""
    found = session.execute(
        select(SnapshotRow.content, StepRow.number)
        .join(StepRow, StepRow.id == SnapshotRow.step_id)
        .where(StepRow.track_id == row.track_id, StepRow.line == row.line, StepRow.number <= row.number)
        .order_by(StepRow.number.desc())
    )
    for content, number in found:
        try:
            return json.loads(zlib.decompress(content)), number + 1
        except (ValueError, zlib.error):
            continue
    return None, 0


def line_after(session: Session, parent: StepRow) -> int:
    """The line of a new child: its parent's, or a new one when that goes on elsewhere."""
    taken = session.scalar(
        select(StepRow.id).where(
            StepRow.track_id == parent.track_id, StepRow.line == parent.line, StepRow.number == parent.number + 1
        )
    )
    if taken is None:
        return parent.line
    return 1 + int(session.scalar(select(func.max(StepRow.line)).where(StepRow.track_id == parent.track_id)) or 0)
