"""Comps."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Float, List, Nested, String
from apiflask.validators import Length, OneOf

from .queries import Id, VersionOut


class CompIn(Schema):
    name = String(required=True, validate=Length(1, 60))
    version_id = Id(load_default=None, allow_none=True)


class CompVersionIn(Schema):
    name = String(required=True, validate=Length(1, 60))


class CompsOut(Schema):
    comps = List(Nested(VersionOut), required=True)
    removed = List(Nested(VersionOut), required=True)


class ChosenOut(Schema):
    id = String(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    version_id = String(required=True)
    step_id = String(required=True)
    name = String(required=True)


class BorderOut(Schema):
    """How the choice before `choice_id` passes into it; seconds of the track."""

    choice_id = String(required=True)
    asked_s = Float(required=True)
    at_s = Float(required=True)
    length_ms = Float(required=True)
    law = String(required=True, validate=OneOf(("none", "equal gain", "equal power")))
    clean = Boolean(required=True)
    cents = Float(required=True)
    apart_ms = Float(required=True)


class CompOut(Schema):
    version = Nested(VersionOut, required=True)
    step_id = String(required=True)
    length_s = Float(required=True)
    behind = List(String(), required=True)
    choices = List(Nested(ChosenOut), required=True)
    borders = List(Nested(BorderOut), required=True)
