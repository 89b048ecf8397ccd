"""Hand-off folders."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Float, Integer, List, Nested, String
from apiflask.validators import Length, OneOf

from .songs import TaskOut


class HandoffFoldersOut(Schema):
    folders = List(String(), required=True)
    root = String(required=True)


class HandoffIn(Schema):
    folder = String(required=True, allow_none=True, validate=Length(1, 80))
    make = Boolean(load_default=False)


class IncomingOut(Schema):
    file = String(required=True)
    state = String(required=True, validate=OneOf(("new", "known", "changed", "unusable")))
    seconds = Float(required=True)
    time_reference = Integer(required=True, allow_none=True)
    track_id = String(required=True, allow_none=True)
    problem = String(required=True)


class HandoffOut(Schema):
    folder = String(required=True, allow_none=True)
    problem = String(required=True)
    incoming = List(Nested(IncomingOut), required=True)
    midi = List(String(), required=True)
    outgoing = List(String(), required=True)


class BringIn(Schema):
    files = List(String(validate=Length(1, 255)), required=True, validate=Length(1, 200))


class BroughtOut(Schema):
    tasks = List(Nested(TaskOut), required=True)


class HandoffMidiIn(Schema):
    file = String(required=True, validate=Length(1, 255))
