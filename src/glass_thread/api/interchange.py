"""What other programs take of a track at a step, each in an open format."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

from apiflask import APIBlueprint
from flask import Response

from ..services.folder.names import file_name
from ..services.prints.interchange import contour_csv_of, grid, labels, melody, notes_csv, notes_document, score
from ..services.session.desk import Desk, Standing
from .context import desk
from .schemas.queries import StepQuery
from .schemas.sound import MelodyQuery

interchange_routes = APIBlueprint("interchange", __name__, tag="Interchange")


def as_file(name: str, data: str | bytes, kind: str, mimetype: str) -> Response:
    """An answer that is saved under a name with what it is."""
    response = Response(data, mimetype=mimetype)
    response.headers.set("Content-Disposition", "attachment", filename=file_name(f"{name}{kind}"))
    return response


def _of_track(
    track_id: str, query_data: dict[str, Any], make: Callable[[Desk, Standing], str | bytes], kind: str, mimetype: str
) -> Response:
    """What is made of a track at the asked step, to be saved under its name."""
    standing = desk().at(track_id, query_data["step"])
    return as_file(standing.track.name, make(desk(), standing), kind, mimetype)


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
    return _of_track(track_id, query_data, score, ".musicxml", "application/vnd.recordare.musicxml+xml")


@interchange_routes.get("/tracks/<track_id>/notes.txt")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "One line a note: start, end, words"})
def get_labels(track_id: str, query_data: dict[str, Any]) -> Response:
    """Notes as tab-separated labels."""
    return _of_track(track_id, query_data, labels, " labels.txt", "text/plain")


@interchange_routes.get("/tracks/<track_id>/notes.TextGrid")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "A TextGrid with tiers for phrases, words and notes"})
def get_grid(track_id: str, query_data: dict[str, Any]) -> Response:
    """Phrases, words and notes as a TextGrid, in the time of the printed track."""
    return _of_track(track_id, query_data, grid, ".TextGrid", "text/plain")


@interchange_routes.get("/tracks/<track_id>/notes.csv")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "One row a note"})
def get_notes_csv(track_id: str, query_data: dict[str, Any]) -> Response:
    """Notes as CSV."""
    return _of_track(track_id, query_data, notes_csv, " notes.csv", "text/csv")


@interchange_routes.get("/tracks/<track_id>/notes.json")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "Notes with what is asked of them"})
def get_notes_json(track_id: str, query_data: dict[str, Any]) -> Response:
    """Notes and edits as JSON."""

    def document(shown: Desk, standing: Standing) -> str:
        return json.dumps(notes_document(shown, standing))

    return _of_track(track_id, query_data, document, " notes.json", "application/json")


@interchange_routes.get("/tracks/<track_id>/contour.csv")
@interchange_routes.input(StepQuery, location="query")
@interchange_routes.doc(responses={200: "One row an analysis frame"})
def get_contour_csv(track_id: str, query_data: dict[str, Any]) -> Response:
    """The tuned contour as CSV."""
    return _of_track(track_id, query_data, contour_csv_of, " contour.csv", "text/csv")
