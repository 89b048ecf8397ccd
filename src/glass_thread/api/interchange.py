"""What other programs take of a track at a step, each in an open format."""

from __future__ import annotations

import json
from typing import Any

from apiflask import APIBlueprint
from flask import Response

from ..services.folder.names import file_name
from ..services.prints.interchange import contour_csv_of, grid, labels, melody, notes_csv, notes_document, score
from .context import desk
from .schemas.queries import StepQuery
from .schemas.sound import MelodyQuery

interchange_routes = APIBlueprint("interchange", __name__, tag="Interchange")


def as_file(name: str, data: str | bytes, kind: str, mimetype: str) -> Response:
    """An answer that is saved under a name with what it is."""
    response = Response(data, mimetype=mimetype)
    response.headers.set("Content-Disposition", "attachment", filename=file_name(f"{name}{kind}"))
    return response


@interchange_routes.get("/tracks/<track_id>/melody.mid")
@interchange_routes.input(MelodyQuery, location="query")
@interchange_routes.doc(responses={200: "A Standard MIDI file"})
def get_melody(track_id: str, query_data: dict[str, Any]) -> Response:
    """The melody with tempo, meter, key and words; with pitch bend over `bend` semitones when that is not 0."""
    standing = desk().at(track_id, query_data["step"])
    return as_file(standing.track.name, melody(desk(), standing, bend_range=query_data["bend"]), ".mid", "audio/midi")


@interchange_routes.get("/tracks/<track_id>/melody.musicxml")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "A MusicXML 4.0 score"})
def get_score(track_id: str, query_data: dict[str, Any]) -> Response:
    """The melody with its words as a score, by sixteenths."""
    standing = desk().at(track_id, query_data["step"])
    kind = "application/vnd.recordare.musicxml+xml"
    return as_file(standing.track.name, score(desk(), standing), ".musicxml", kind)


@interchange_routes.get("/tracks/<track_id>/notes.txt")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "One line a note: start, end, words"})
def get_labels(track_id: str, query_data: dict[str, Any]) -> Response:
    """Notes as tab-separated labels."""
    standing = desk().at(track_id, query_data["step"])
    return as_file(standing.track.name, labels(desk(), standing), " labels.txt", "text/plain")


@interchange_routes.get("/tracks/<track_id>/notes.TextGrid")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "A TextGrid with tiers for phrases, words and notes"})
def get_grid(track_id: str, query_data: dict[str, Any]) -> Response:
    """Phrases, words and notes as a TextGrid, in the time of the printed track."""
    standing = desk().at(track_id, query_data["step"])
    return as_file(standing.track.name, grid(desk(), standing), ".TextGrid", "text/plain")


@interchange_routes.get("/tracks/<track_id>/notes.csv")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "One row a note"})
def get_notes_csv(track_id: str, query_data: dict[str, Any]) -> Response:
    """Notes as CSV."""
    standing = desk().at(track_id, query_data["step"])
    return as_file(standing.track.name, notes_csv(desk(), standing), " notes.csv", "text/csv")


@interchange_routes.get("/tracks/<track_id>/notes.json")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "Notes with what is asked of them"})
def get_notes_json(track_id: str, query_data: dict[str, Any]) -> Response:
    """Notes and edits as JSON."""
    standing = desk().at(track_id, query_data["step"])
    return as_file(standing.track.name, json.dumps(notes_document(desk(), standing)), " notes.json", "application/json")


@interchange_routes.get("/tracks/<track_id>/contour.csv")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "One row an analysis frame"})
def get_contour_csv(track_id: str, query_data: dict[str, Any]) -> Response:
    """The tuned contour as CSV."""
    standing = desk().at(track_id, query_data["step"])
    return as_file(standing.track.name, contour_csv_of(desk(), standing), " contour.csv", "text/csv")
