"""Tune passes by name, and the shipped settings of a glaze."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from apiflask import APIBlueprint

from ..core.document.items.glazes import PRESETS
from ..services.history.tune_passes import list_passes, remove_pass, save_pass
from .context import workspace
from .schemas.passes import GlazePresetsOut, TunePassesOut, TunePassIn

pass_routes = APIBlueprint("tune_passes", __name__, tag="Tune passes")


@pass_routes.get("/glaze-presets")
@pass_routes.output(GlazePresetsOut)
def get_glaze_presets() -> dict[str, Any]:
    """Settings of a glaze with a name and what they are for."""
    return {"presets": [asdict(preset) for preset in PRESETS]}


@pass_routes.get("/tune-passes")
@pass_routes.output(TunePassesOut)
def get_passes() -> dict[str, Any]:
    """The shipped passes and the user's own."""
    return {"passes": list_passes(workspace())}


@pass_routes.post("/tune-passes")
@pass_routes.input(TunePassIn)
@pass_routes.output(TunePassesOut, status_code=201)
def post_pass(json_data: dict[str, Any]) -> dict[str, Any]:
    """Save a pass under a name, replacing one of the same name."""
    save_pass(workspace(), json_data.pop("name"), json_data)
    return {"passes": list_passes(workspace())}


@pass_routes.delete("/tune-passes/<name>")
@pass_routes.output({}, status_code=204)
def delete_pass(name: str) -> str:
    """Remove one of the user's passes."""
    remove_pass(workspace(), name)
    return ""
