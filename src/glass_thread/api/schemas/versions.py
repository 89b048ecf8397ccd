"""Versions and steps."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Float, Integer, List, Nested, String
from apiflask.validators import Length, Range

from .content import GestureOut
from .queries import Id, StepOut, VersionOut


class BranchOut(Schema):
    last = Nested(StepOut, required=True)
    steps = Integer(required=True)


class StepsOut(Schema):
    steps = List(Nested(StepOut), required=True)
    head_number = Integer(required=True)
    branches = List(Nested(BranchOut), required=True)


class StepsQuery(Schema):
    version = Id(load_default=None, allow_none=True)
    before = Integer(load_default=None, allow_none=True, validate=Range(0, 2**31))
    limit = Integer(load_default=200, validate=Range(1, 1000))


class VersionsOut(Schema):
    versions = List(Nested(VersionOut), required=True)
    removed = List(Nested(VersionOut), required=True)


class VersionIn(Schema):
    name = String(required=True, validate=Length(1, 60))
    note = String(load_default="", validate=Length(0, 500))
    from_version = Id(load_default=None, allow_none=True)
    from_step = Id(load_default=None, allow_none=True)


class VersionChangeIn(Schema):
    name = String(validate=Length(1, 60))
    note = String(validate=Length(0, 500))


class CompareQuery(Schema):
    first = Id(required=True)
    second = Id(required=True)


class NoteDifferenceOut(Schema):
    note_id = String(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    cut_differently = Boolean(required=True)
    tuned_first = Float(required=True, allow_none=True)
    tuned_second = Float(required=True, allow_none=True)
    first = Nested(GestureOut, required=True, allow_none=True)
    second = Nested(GestureOut, required=True, allow_none=True)


class CompareOut(Schema):
    notes = List(Nested(NoteDifferenceOut), required=True)
