"""``glass-thread openapi``: the interface's description."""

from __future__ import annotations

import argparse
import json
import tempfile
import warnings
from pathlib import Path
from typing import Any

from ..api.app import create_app
from ..services.folder.workspace import open_workspace


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    openapi = verbs.add_parser("openapi", help="print the OpenAPI description", description="Print the OpenAPI JSON.")
    openapi.set_defaults(run=lambda _chosen: print(json.dumps(description(), indent=2)))


def description() -> dict[str, Any]:
    """The OpenAPI document of the application."""
    warnings.filterwarnings("ignore", message=".*has already been added to the spec")  # one schema in two ways of use
    with tempfile.TemporaryDirectory() as folder:
        workspace = open_workspace(Path(folder))
        try:
            return dict(create_app(workspace).spec)
        finally:
            workspace.close()
