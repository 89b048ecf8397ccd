"""The union of edit operations in the OpenAPI description, from the core's declarations."""

from __future__ import annotations

from typing import Any

from ..core.document.operations.schema import UNION, operation_schemas

TAKING_OPERATIONS = ("EditIn", "PreviewIn")


def describe_operations(spec: dict[str, Any]) -> dict[str, Any]:
    """The description with the operations in it, where requests take them."""
    schemas = spec["components"]["schemas"]
    schemas.update(operation_schemas())
    for name in TAKING_OPERATIONS:
        schemas[name]["properties"]["operation"] = {"$ref": f"#/components/schemas/{UNION}"}
    return spec
