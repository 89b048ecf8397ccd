"""Comps: which version of a track sounds when.  They are edited like versions, by `/tracks/<id>/edits`."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from ..core.signal.errors import NotFoundError
from ..services.history.comps import comp_at, list_comps, make_comp, version_from_comp
from ..services.history.edit import open_version
from ..store.records import Version
from .content_data import version_data
from .context import desk
from .schemas.comps import CompIn, CompOut, CompsOut, CompVersionIn
from .schemas.queries import StepQuery, VersionOut

comp_routes = APIBlueprint("comps", __name__, tag="Comps")


@comp_routes.get("/tracks/<track_id>/comps")
@comp_routes.output(CompsOut)
def get_comps(track_id: str) -> dict[str, Any]:
    """The comps of a track, and those that were removed."""
    return {"comps": [version_data(one) for one in list_comps(desk(), track_id)],
            "removed": [version_data(one) for one in list_comps(desk(), track_id, removed=True)]}  # fmt: skip


@comp_routes.post("/tracks/<track_id>/comps")
@comp_routes.input(CompIn)
@comp_routes.output(VersionOut, status_code=201)
def post_comp(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Make a comp in which one version sounds throughout."""
    return version_data(make_comp(desk(), track_id, json_data["name"], version_id=json_data["version_id"]))


def _comp(track_id: str, comp_id: str) -> Version:
    version = open_version(desk(), track_id, comp_id)
    if not version.is_comp:
        raise NotFoundError("There is no such comp; it may have been removed.")
    return version


@comp_routes.get("/tracks/<track_id>/comps/<comp_id>")
@comp_routes.input(StepQuery, location="query")
@comp_routes.output(CompOut)
def get_comp(track_id: str, comp_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """What sounds when in a comp, how each border is joined, and which versions were changed since."""
    version = _comp(track_id, comp_id)
    standing = desk().at(track_id, query_data["step"] or version.head_id)
    state = comp_at(desk(), standing)
    rate = standing.track.sample_rate
    return {
        "version": version_data(version), "step_id": standing.step_id, "length_s": state.length_s,
        "behind": state.behind,
        "choices": [
            {"id": choice.id, "start_s": a, "end_s": b, "version_id": choice.version_id, "step_id": choice.step_id,
             "name": name}
            for a, b, choice, name in state.choices
        ],
        "borders": [
            {"choice_id": border.choice_id, "asked_s": border.asked / rate, "at_s": border.at / rate,
             "length_ms": 1000.0 * border.length / rate, "law": border.law, "clean": border.clean,
             "cents": border.cents, "apart_ms": 1000.0 * border.apart_s}
            for border in state.borders
        ],
    }  # fmt: skip


@comp_routes.post("/tracks/<track_id>/comps/<comp_id>/version")
@comp_routes.input(CompVersionIn)
@comp_routes.output(VersionOut, status_code=201)
def post_comp_version(track_id: str, comp_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Make a version that begins with what a comp chose."""
    return version_data(version_from_comp(desk(), track_id, _comp(track_id, comp_id), json_data["name"]))
