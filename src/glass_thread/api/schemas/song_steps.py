"""Steps of songs, and what was removed."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Float, Integer, List, Nested, String

from .songs import SongOut


class SongStepOut(Schema):
    id = String(required=True)
    number = Integer(required=True)
    label = String(required=True)
    state = String(required=True, metadata={"description": "done, undone or left"})
    created_at = Float(required=True)
    made_by = String(required=True, metadata={"description": "the sign-in code it was made with; empty on the machine"})


class SongStepsOut(Schema):
    steps = List(Nested(SongStepOut), required=True)


class SongMovedOut(Schema):
    song = Nested(SongOut, required=True)
    label = String(required=True)
    tracks = List(String(), required=True, metadata={"description": "whose versions moved"})


class RemovedThingOut(Schema):
    kind = String(required=True, metadata={"description": "song or track"})
    id = String(required=True)
    name = String(required=True)
    song = String(required=True)
    removed_at = Float(required=True)
    seconds = Float(required=True)


class RemovedOut(Schema):
    removed = List(Nested(RemovedThingOut), required=True)


class SweptOut(Schema):
    files = Integer(required=True)
    size = Integer(required=True)
