"""What workers say."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Dict, Float, String
from apiflask.validators import Length, OneOf, Range


class WorkOut(Schema):
    version = String(required=True)
    analysis_version = String(required=True)
    libraries = Dict(required=True, metadata={"description": "versions of what computes"})


class WorkerIn(Schema):
    worker = String(required=True, validate=Length(1, 120))


class ProgressIn(WorkerIn):
    stage = String(required=True, validate=Length(1, 80))
    share = Float(required=True, validate=Range(0, 1))


class DoneIn(WorkerIn):
    values = Dict(required=True)
    file = String(required=True, allow_none=True, validate=Length(64, 64))


class EndedIn(WorkerIn):
    state = String(required=True, validate=OneOf(("failed", "cancelled")))
    message = String(required=True, validate=Length(0, 1000))
    trace = String(load_default="", validate=Length(0, 20_000))


class GoOnOut(Schema):
    go_on = Boolean(required=True)
