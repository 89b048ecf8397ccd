"""Versions and the list of steps."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from ..services.history.edit import open_version
from ..services.history.versions import (
    change_version,
    compare,
    list_versions,
    make_version,
    remove_version,
    restore_version,
    switch_version,
)
from .content_data import step_data, version_data
from .context import desk
from .schemas.queries import VersionOut
from .schemas.versions import CompareOut, CompareQuery, StepsOut, StepsQuery, VersionChangeIn, VersionIn, VersionsOut

version_routes = APIBlueprint("versions", __name__, tag="Versions")


@version_routes.get("/tracks/<track_id>/versions")
@version_routes.output(VersionsOut)
def get_versions(track_id: str) -> dict[str, Any]:
    """The versions of a track, As sung first, and those that were removed."""
    return {"versions": [version_data(version) for version in list_versions(desk(), track_id)],
            "removed": [version_data(one) for one in list_versions(desk(), track_id, removed=True)]}  # fmt: skip


@version_routes.post("/tracks/<track_id>/versions")
@version_routes.input(VersionIn)
@version_routes.output(VersionOut, status_code=201)
def post_version(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Make a version from another one, or from any step."""
    return version_data(make_version(desk(), track_id, json_data.pop("name"), **json_data))


@version_routes.patch("/tracks/<track_id>/versions/<version_id>")
@version_routes.input(VersionChangeIn)
@version_routes.output(VersionOut)
def patch_version(track_id: str, version_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Change name or note."""
    return version_data(change_version(desk(), track_id, version_id, **json_data))


@version_routes.delete("/tracks/<track_id>/versions/<version_id>")
@version_routes.output(VersionOut)
def delete_version(track_id: str, version_id: str) -> dict[str, Any]:
    """Take a version out of the list; it can be brought back."""
    return version_data(remove_version(desk(), track_id, version_id))


@version_routes.post("/tracks/<track_id>/versions/<version_id>/restore")
@version_routes.output(VersionOut)
def post_restore(track_id: str, version_id: str) -> dict[str, Any]:
    """Bring a removed version back."""
    return version_data(restore_version(desk(), track_id, version_id))


@version_routes.post("/tracks/<track_id>/versions/<version_id>/open")
@version_routes.output(VersionOut)
def post_open(track_id: str, version_id: str) -> dict[str, Any]:
    """Work on this version from now on."""
    return version_data(switch_version(desk(), track_id, version_id))


@version_routes.get("/tracks/<track_id>/steps")
@version_routes.input(StepsQuery, location="query")
@version_routes.output(StepsOut)
def get_steps(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """The steps on the way to a version's tip, newest first, those before a number; and other branches."""
    version = open_version(desk(), track_id, query_data["version"])
    history = desk().workspace.history
    steps = history.path(version.tip_id, before=query_data["before"], most=query_data["limit"])
    branches = history.branches(track_id, history.way_to(version.tip_id), of_comps=version.is_comp)
    return {"steps": [step_data(step) for step in steps], "head_number": history.place(version.head_id).number,
            "branches": [{"last": step_data(step), "steps": count} for step, count in branches]}  # fmt: skip


@version_routes.get("/tracks/<track_id>/compare")
@version_routes.input(CompareQuery, location="query")
@version_routes.output(CompareOut)
def get_compare(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """Notes that differ between two steps, before and after."""
    found = compare(desk(), track_id, query_data["first"], query_data["second"])
    return {"notes": [
        {"note_id": one.note_id, "start_s": one.start_s, "end_s": one.end_s, "cut_differently": one.cut_differently,
         "tuned_first": one.tuned[0], "tuned_second": one.tuned[1],
         "first": one.gestures[0], "second": one.gestures[1]}
        for one in found
    ]}  # fmt: skip
