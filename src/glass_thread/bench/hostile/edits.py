"""Edit documents that nobody should send: every field of every operation with every kind of wrong value."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import MISSING, fields
from typing import Any

from ...core.document.operations.operation import kind_of
from ...core.document.operations.registry import OPERATIONS
from ...core.document.operations.schema import example_of


def _deep(levels: int) -> list[Any]:
    nested: list[Any] = []
    for _ in range(levels):
        nested = [nested]
    return nested


WRONG: tuple[Any, ...] = (
    None, True, "", "x" * 5000, "\ud800", "n0001\x00", -1, 0, 1e308, 10**30, 10**400, float("nan"), float("inf"),
    [], {}, [None], [[]], [1e999], {"a": 1}, ["n0001"], ["n0001", "n0001"], ["n9999"], [["n0001"]], [{"id": "n0001"}],
    _deep(200), {"pull": float("nan")}, {"pull": "1"}, {"level_db": 10**20}, {"unknown": 1}, {"target": "\ud800"},
    {"target": 5}, {"rounding": []}, {"kind": {}}, {"muted": 3}, [[0, 60]], [[0, 60], [0, 60]], [["a", "b"], [1, 2]],
)  # fmt: skip


def hostile_edits(note_id: str, air_id: str) -> Iterator[Any]:
    """Documents for a track that has a note and an air event of these ids."""
    yield from (None, [], 3, "tune", {}, {"type": None}, {"type": []}, {"type": {}}, {"type": "tune "}, _deep(60))
    yield {"type": "read_again", "note_ids": [note_id], "readings": {note_id: [0, [60.0]]}}
    for operation in OPERATIONS.values():
        sound = {**example_of(operation)}
        for name, value in sound.items():
            if name in ("note_ids", "from_ids", "to_ids"):
                sound[name] = [note_id]
            elif name == "air_ids":
                sound[name] = [air_id]
            elif name in ("note_id", "air_id"):
                sound[name] = note_id if name == "note_id" else air_id
            del value
        yield {**sound, "surprise": 1}
        for one in fields(operation):
            for wrong in WRONG:
                yield {**sound, one.name: wrong}
            schema = kind_of(one).schema
            yield from ({**sound, one.name: schema[edge]} for edge in ("minimum", "maximum") if edge in schema)
            if one.default is MISSING:
                yield {name: value for name, value in sound.items() if name != one.name}
