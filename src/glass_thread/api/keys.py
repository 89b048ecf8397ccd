"""Keys, scales and tunings."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from ..core.signal.scale_steps import SCALES
from ..core.signal.units import key_name
from ..core.song.spelling import tonic_name
from ..services.session.keys import TEMPERAMENT_WORDS, mapping_file, pitches_data, scale_file
from ..services.song.key_change import preview_keys
from .context import desk
from .schemas.keys import KeyChangeOut, KeysIn, ScalaIn, ScalaOut, ScalesOut

REFERENCES = range(48, 85)  # C3 to C6: what tuning forks and books name

key_routes = APIBlueprint("keys", __name__, tag="Keys and tunings")


@key_routes.post("/songs/<song_id>/key-preview")
@key_routes.input(KeysIn)
@key_routes.output(KeyChangeOut)
def post_key_preview(song_id: str, json_data: dict[str, Any]) -> dict[str, Any]:
    """What other keys or another tuning would mean for the notes; nothing is changed."""
    change, places = preview_keys(desk(), song_id, json_data)
    return {**vars(change), "pitches": pitches_data(places)}


@key_routes.get("/scales")
@key_routes.output(ScalesOut)
def get_scales() -> dict[str, Any]:
    """The scales by name, with their tonics, and the tunings."""
    scales = [{"name": name, "steps": steps, "tonics": [tonic_name(tonic, name) for tonic in range(12)]}
              for name, steps in SCALES.items()]  # fmt: skip
    temperaments = [{"name": name, "words": words} for name, words in TEMPERAMENT_WORDS.items()]
    references = [{"key": key, "name": key_name(key)} for key in REFERENCES]
    return {"scales": scales, "temperaments": temperaments, "references": references}


@key_routes.post("/scala-scale")
@key_routes.input(ScalaIn, location="files")
@key_routes.output(ScalaOut)
def post_scala_scale(files_data: dict[str, Any]) -> dict[str, Any]:
    """Read a Scala scale file (.scl); nothing is changed."""
    text, words, twelve = scale_file(files_data["file"].stream)
    return {"text": text, "words": words, "twelve": twelve}


@key_routes.post("/scala-mapping")
@key_routes.input(ScalaIn, location="files")
@key_routes.output(ScalaOut)
def post_scala_mapping(files_data: dict[str, Any]) -> dict[str, Any]:
    """Read a Scala keyboard mapping (.kbm); nothing is changed."""
    text, words = mapping_file(files_data["file"].stream)
    return {"text": text, "words": words, "twelve": False}
