"""Words of a track on its notes."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from apiflask import APIBlueprint

from ..core.signal.errors import ParameterError
from ..services.lyrics.laid import laid_syllables, words_language
from ..services.lyrics.language import known_languages
from ..services.lyrics.reading import words_of_lyrics
from ..services.lyrics.saying import begin_at, cut_word, forget_at, hold_at
from ..services.voices.better import sung_better
from .context import desk, workspace
from .schemas.lyrics import LyricsIn, SayIn, SungBetterOut, SyllablesOut, WordsOut
from .schemas.queries import StepQuery

lyric_routes = APIBlueprint("lyrics", __name__, tag="Words on notes")


@lyric_routes.get("/tracks/<track_id>/syllables")
@lyric_routes.input(StepQuery, location="query")
@lyric_routes.output(SyllablesOut)
def get_syllables(track_id: str, query_data: dict[str, Any]) -> dict[str, Any]:
    """The syllables of a track on the notes they begin with, at a step."""
    return _syllables(track_id, query_data["step"])


@lyric_routes.post("/tracks/<track_id>/syllables")
@lyric_routes.input(SayIn)
@lyric_routes.output(SyllablesOut)
def post_syllables(track_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """Say by hand where a syllable begins, that a note is held on, or how a word is cut; a step of the song."""
    kind, note_ids = json_data["type"], json_data["note_ids"]
    if kind != "cut" and not note_ids:
        raise ParameterError("No note is named.")
    if kind == "begin":
        begin_at(desk(), track_id, note_ids[0], json_data["phrase"], json_data["place"])
    elif kind == "hold":
        hold_at(desk(), track_id, note_ids)
    elif kind == "forget":
        forget_at(desk(), track_id, note_ids)
    else:
        cut_word(desk(), track_id, json_data["word"], json_data["parts"])
    return _syllables(track_id)


@lyric_routes.post("/tracks/<track_id>/lyrics")
@lyric_routes.input(LyricsIn, location="files")
@lyric_routes.output(WordsOut)
def post_lyrics(track_id: str, files_data: dict[str, Any]) -> dict[str, Any]:
    """The words of each phrase from a file of text, timed lyrics or MIDI lyric events; nothing is changed."""
    return {"words": words_of_lyrics(desk(), track_id, files_data["file"].read())}


@lyric_routes.get("/tracks/<track_id>/sung-better")
@lyric_routes.output(SungBetterOut)
def get_sung_better(track_id: str) -> dict[str, Any]:
    """For flagged notes of known words, where the same syllable is less off in the song."""
    return {"better": [asdict(one) for one in sung_better(desk(), track_id)]}


def _syllables(track_id: str, step: str | None = None) -> dict[str, Any]:
    standing = desk().at(track_id, step)
    return {"syllables": [asdict(one) for one in laid_syllables(standing)], "laid": standing.track.laid,
            "turn": workspace().log.turn(standing.song.id),
            "language": words_language(standing.song, standing.track), "languages": known_languages()}  # fmt: skip
