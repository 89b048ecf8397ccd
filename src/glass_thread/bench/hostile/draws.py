"""Edit operations drawn at random from their declarations: a new one is drawn as soon as it is declared."""

from __future__ import annotations

import random
from collections.abc import Mapping, Sequence
from dataclasses import MISSING, dataclass, field, fields
from typing import Any

from ...core.document.content import Content
from ...core.document.operations.operation import kind_of
from ...core.document.operations.registry import OPERATIONS

NOT_DRAWN = ("double", "harmony")  # they make a track: `histories` does that
_OFTEN = 0.35  # how often a field is drawn that could be left out


@dataclass(frozen=True)
class Around:
    """What an operation may name beside the content it is for: other tracks with their notes, versions of this one."""

    duration_s: float
    tracks: Mapping[str, Sequence[str]] = field(default_factory=dict)
    versions: Sequence[str] = ()


def draw_operation(rng: random.Random, content: Content, around: Around) -> dict[str, Any]:
    """The document of an operation for a content, of a version or, where it has choices, a comp; it may well be one
    that is refused."""
    of_comp = bool(content.choices)
    either = "origins"  # a comp and a version catch up alike
    kinds = [one for name, one in OPERATIONS.items()
             if name not in NOT_DRAWN and (one.needs == either or (one.needs == "rows") == of_comp)]  # fmt: skip
    operation = rng.choice(kinds)
    data: dict[str, Any] = {"type": operation.type}
    for one in fields(operation):
        if one.default is MISSING or rng.random() < _OFTEN:
            data[one.name] = _drawn(rng, one.name, kind_of(one).schema, content, around)
    if "from_track" in data and "from_note_ids" in data:
        data["from_note_ids"] = _some(rng, around.tracks.get(data["from_track"]) or list(content.notes) or ["n0001"])
    return _in_order(data)


def _in_order(data: dict[str, Any]) -> dict[str, Any]:
    if "start_s" in data and "end_s" in data:
        data["start_s"], data["end_s"] = sorted((data["start_s"], data["end_s"]))
    return data


def _drawn(rng: random.Random, name: str, schema: Mapping[str, Any], content: Content, around: Around) -> Any:
    if name.endswith("_track"):
        return rng.choice([*around.tracks, "no such track"])
    if name == "version_id":
        return rng.choice([*around.versions, "no such version"])
    ids = _ids_for(name, content)
    if ids is not None:
        return rng.choice(ids) if not name.endswith("ids") else _some(rng, ids)
    if name.endswith("_s") and schema.get("type") in ("number", ["number", "null"]):
        return round(rng.uniform(0.0, around.duration_s), 3)
    return from_schema(rng, schema)


def _ids_for(name: str, content: Content) -> list[str] | None:
    """The items that a field of some name may be about."""
    parts = {"note": content.notes, "air": content.air, "pin": content.pins, "glaze": content.glazes,
             "borrow": content.borrows, "stretch": content.level_stretches, "link": content.links,
             "gap": content.gaps, "from": content.notes, "to": content.notes}  # fmt: skip
    word = name.removesuffix("_ids").removesuffix("_id")
    if word == name or word not in parts:
        return None
    return list(parts[word]) or ["n0001"]


def _some(rng: random.Random, ids: Sequence[str]) -> list[str]:
    """One, a few that lie together, or all."""
    size = rng.choice((*[1] * 8, 3, 3, 8, len(ids)))
    first = rng.randrange(max(1, len(ids) - size + 1))
    return list(ids[first : first + size])


def from_schema(rng: random.Random, schema: Mapping[str, Any]) -> Any:
    """A value that a JSON schema of these declarations allows."""
    kind = schema.get("type")
    if "enum" in schema:
        return rng.choice(schema["enum"])
    if isinstance(kind, list):
        return None if rng.random() < 0.3 else from_schema(rng, {**schema, "type": kind[0]})
    if kind == "boolean":
        return rng.random() < 0.5
    if kind in ("number", "integer"):
        low, high = schema.get("minimum", 0), schema.get("maximum", 1)
        return rng.randint(low, high) if kind == "integer" else round(rng.uniform(low, high), 3)
    if kind == "array":
        size = rng.randint(schema.get("minItems", 1), max(schema.get("minItems", 1), min(schema.get("maxItems", 3), 3)))
        return [from_schema(rng, schema.get("items", {})) for _ in range(size)]
    if kind == "object":
        known = schema.get("properties", {})
        chosen = rng.sample(sorted(known), min(len(known), rng.randint(1, 3)))
        return {name: from_schema(rng, known[name]) for name in chosen}
    return "scale"
