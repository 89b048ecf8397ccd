"""The tuning sheet of a version or comp, and notes on the singer: for the screen, and as files."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

from apiflask import APIBlueprint
from flask import Response

from ..services.report.singer_notes import notes_csv, singer_notes
from ..services.report.tuning_sheet import TuningSheet, sheet_csv, sheet_data, sheet_of_version
from .context import desk
from .interchange import as_file
from .schemas.report import SheetQuery, SingerNotesOut, SingerNotesQuery, TuningSheetOut

report_routes = APIBlueprint("report", __name__, tag="Report")


def _sheet(track_id: str, wanted: dict[str, Any]) -> TuningSheet:
    return sheet_of_version(desk(), track_id, wanted["version"], step=wanted["step"], against=wanted["against"])


@report_routes.get("/tracks/<track_id>/tuning-sheet")
@report_routes.input(SheetQuery, location="query")
@report_routes.output(TuningSheetOut)
def get_tuning_sheet(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """Every change of a version or comp, by phrase; against another version when one is named."""
    return asdict(_sheet(track_id, query_data))


@report_routes.get("/tracks/<track_id>/tuning-sheet.csv")
@report_routes.input(SheetQuery, location="query")
@report_routes.doc(responses={200: "One row a change"})
def get_sheet_csv(track_id: str, query_data: dict[str, Any]) -> Response:
    """The tuning sheet as CSV."""
    sheet = _sheet(track_id, query_data)
    return as_file(sheet.track, sheet_csv(sheet), " sheet.csv", "text/csv")


@report_routes.get("/tracks/<track_id>/tuning-sheet.json")
@report_routes.input(SheetQuery, location="query")
@report_routes.doc(responses={200: "The tuning sheet"})
def get_sheet_json(track_id: str, query_data: dict[str, Any]) -> Response:
    """The tuning sheet as JSON."""
    sheet = _sheet(track_id, query_data)
    return as_file(sheet.track, json.dumps(sheet_data(sheet), ensure_ascii=False), " sheet.json", "application/json")


@report_routes.get("/tracks/<track_id>/singer-notes")
@report_routes.input(SingerNotesQuery, location="query")
@report_routes.output(SingerNotesOut)
def get_singer_notes(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """What is claimed of a singer from a take, from the song or from all songs, with the places to hear."""
    found = singer_notes(desk(), track_id, query_data["scope"])
    told = [{**asdict(one.claim), "values": one.values, "clearest": one.clearest, "change": one.change}
            for one in found.told]  # fmt: skip
    return {**vars(found), "claims": told}


@report_routes.get("/tracks/<track_id>/singer-notes.csv")
@report_routes.input(SingerNotesQuery, location="query")
@report_routes.doc(responses={200: "One row a value"})
def get_singer_notes_csv(track_id: str, query_data: dict[str, Any]) -> Response:
    """The numbers behind the notes on a singer."""
    found = singer_notes(desk(), track_id, query_data["scope"])
    return as_file(found.singer, notes_csv(found), " notes.csv", "text/csv")
