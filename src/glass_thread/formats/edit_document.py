"""Edit documents: operations as JSON."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from ..core.signal.errors import ParameterError

EDITS_FORMAT = "glass-thread-edits"


def read_edits(path: Path) -> list[dict[str, Any]]:
    """Operations of an edit document (JSON)."""
    try:
        data = json.loads(path.read_text())
    except (OSError, ValueError, RecursionError) as error:
        raise ParameterError(f"{path.name} is not a JSON document.") from error
    if not isinstance(data, dict) or data.get("format") != EDITS_FORMAT or not isinstance(data.get("operations"), list):
        raise ParameterError(f"{path.name} is not an edit document: “format” must be “{EDITS_FORMAT}”.")
    if not all(isinstance(operation, dict) for operation in data["operations"]):
        raise ParameterError(f"{path.name} has an operation that is not an object.")
    return data["operations"]
