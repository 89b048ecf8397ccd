"""JSON schemas (OpenAPI 3.1) of all operations, and their help as text; both from the declared fields."""

from __future__ import annotations

from dataclasses import MISSING, fields
from typing import Any

from .operation import Operation, kind_of
from .registry import OPERATIONS

UNION = "Operation"


def schema_name(operation: type[Operation]) -> str:
    """Name of an operation's schema."""
    return f"{operation.__name__}Operation"


def example_of(operation: type[Operation]) -> dict[str, Any]:
    """A document with the fields that must be given."""
    required = {one.name: kind_of(one).example for one in fields(operation) if one.default is MISSING}
    return {"type": operation.type, **required}


def _schema(operation: type[Operation]) -> dict[str, Any]:
    properties: dict[str, Any] = {"type": {"type": "string", "enum": [operation.type]}}
    required = ["type"]
    for one in fields(operation):
        shape = dict(kind_of(one).schema)
        if one.default is MISSING:
            required.append(one.name)
        elif one.default is None:
            shape["type"] = [shape["type"], "null"]
            shape.update({"enum": [*shape["enum"], None]} if "enum" in shape else {})
        else:
            shape["default"] = list(one.default) if isinstance(one.default, tuple) else one.default
        properties[one.name] = shape
    return {
        "type": "object", "title": operation.label, "description": operation.__doc__, "properties": properties,
        "required": required, "additionalProperties": False, "example": example_of(operation),
    }  # fmt: skip


def operation_schemas() -> dict[str, dict[str, Any]]:
    """Every operation's schema by name, and the union of them, told apart by `type`."""
    found = {schema_name(operation): _schema(operation) for operation in OPERATIONS.values()}
    places = {operation.type: f"#/components/schemas/{schema_name(operation)}" for operation in OPERATIONS.values()}
    found[UNION] = {
        "description": "One edit.",
        "oneOf": [{"$ref": place} for place in places.values()],
        "discriminator": {"propertyName": "type", "mapping": places},
    }
    return found


def help_text() -> str:
    """All operations with their fields, for the command line."""
    lines = []
    for operation in OPERATIONS.values():
        lines += [f"{operation.type}: {operation.__doc__}"]
        for one in fields(operation):
            shape = kind_of(one).schema
            left_out = "" if one.default is MISSING else " (may be left out)"
            allowed = ""
            if "enum" in shape:
                allowed = ": " + ", ".join(shape["enum"])
            elif "minimum" in shape:
                allowed = f": {shape['minimum']:g} to {shape['maximum']:g}"
            elif "properties" in shape:
                allowed = ": " + ", ".join(shape["properties"])
            lines.append(f"    {one.name}  {shape['description']}{allowed}{left_out}")
    return "\n".join(lines)
