"""What several requests and answers share."""

from __future__ import annotations

from typing import Any

from apiflask import Schema
from apiflask.fields import Boolean, Float, Integer, String
from apiflask.validators import Length, OneOf


class Id(String):
    """An id of ours: up to 32 letters and digits."""

    def __init__(self, **settings: Any) -> None:
        super().__init__(validate=Length(1, 32), **settings)


class StepOut(Schema):
    id = String(required=True)
    parent_id = String(required=True, allow_none=True)
    number = Integer(required=True)
    label = String(required=True)
    created_at = Float(required=True)
    line = Integer(required=True)
    at_s = Float(required=True, allow_none=True)
    made_by = String(required=True, metadata={"description": "the sign-in code it was made with; empty on the machine"})


class VersionOut(Schema):
    id = String(required=True)
    track_id = String(required=True)
    name = String(required=True)
    note = String(required=True)
    kind = String(required=True, validate=OneOf(("as_sung", "tuned", "made", "comp")))
    head_id = String(required=True)
    head_number = Integer(required=True)
    head_label = String(required=True)
    created_at = Float(required=True)
    read_only = Boolean(required=True)
    can_undo = Boolean(required=True)
    can_redo = Boolean(required=True)


class SpanOut(Schema):
    start_s = Float(required=True)
    end_s = Float(required=True)


class CurvePieceOut(Schema):
    """Curves from a frame on, laid out as `/curves` answers them, in base64."""

    first = Integer(required=True)
    data = String(required=True)


class StepQuery(Schema):
    step = Id(load_default=None, allow_none=True)


class VersionQuery(StepQuery):
    version = Id(load_default=None, allow_none=True)
