"""The versions of a track as its comps see them."""

from __future__ import annotations

from ...core.document.rows import Row
from ...store.records import Version
from ..session.desk import Desk


def rows_of(desk: Desk, track_id: str) -> dict[str, Row]:
    """What a comp of a track can choose among: its versions by id, as they stand now."""
    versions = desk.workspace.history.versions(track_id)
    return {version.id: row_at(desk, track_id, version) for version in versions if not version.is_comp}


def row_at(desk: Desk, track_id: str, version: Version, step_id: str | None = None) -> Row:
    """A version as it stands at a step, or now."""
    standing = desk.at(track_id, step_id or version.head_id)
    verdicts = desk.verdicts(standing).notes
    return Row(
        version.id, version.name, step_id or version.head_id, standing.content, desk.plan(standing).times,
        {note_id: verdict.strain for note_id, verdict in verdicts.items()},
        frozenset(note_id for note_id, verdict in verdicts.items() if verdict.flags),
    )  # fmt: skip
