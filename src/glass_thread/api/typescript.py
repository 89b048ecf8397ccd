"""TypeScript types from the OpenAPI description, so that both sides share one source."""

from __future__ import annotations

from typing import Any

_PLAIN = {"string": "string", "integer": "number", "number": "number", "boolean": "boolean"}


def _type_of(schema: dict[str, Any]) -> str:
    if "$ref" in schema:
        return schema["$ref"].rsplit("/", 1)[1]
    if "allOf" in schema:
        inner = " & ".join(_type_of(part) for part in schema["allOf"])
        return f"{inner} | null" if schema.get("nullable") else inner
    if "anyOf" in schema:
        return " | ".join(_type_of(part) for part in schema["anyOf"])
    if "enum" in schema:
        return " | ".join("null" if v is None else repr(v).replace("'", '"') for v in schema["enum"])
    kind = schema.get("type", "object")
    kinds = kind if isinstance(kind, list) else [kind]
    names = []
    for one in kinds:
        if one == "array":
            inner = _type_of(schema.get("items", {}))
            names.append(f"({inner})[]" if "|" in inner else f"{inner}[]")
        elif one == "object":
            values = schema.get("additionalProperties")
            names.append(f"Record<string, {_type_of(values) if isinstance(values, dict) and values else 'unknown'}>")
        else:
            names.append("null" if one == "null" else _PLAIN[one])
    text = " | ".join(names)
    return f"{text} | null" if schema.get("nullable") else text


def typescript_types(spec: dict[str, Any]) -> str:
    """One interface a schema of the OpenAPI document `spec`, in name order."""
    lines = ["// Generated from the API's schema by `glass-thread types`; do not edit."]
    for name, schema in sorted(spec["components"]["schemas"].items()):
        required = set(schema.get("required", ()))
        lines += ["", f"export interface {name} {{"]
        for field, inner in schema.get("properties", {}).items():
            lines.append(f"  {field}{'' if field in required else '?'}: {_type_of(inner)};")
        lines.append("}")
    return "\n".join(lines) + "\n"
