"""Tracks that follow each other."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Dict, Float, Integer, List, Nested, String
from apiflask.validators import Length, Range

from .queries import Id
from .songs import TrackOut


class AlignmentIn(Schema):
    step = Id(load_default=None, allow_none=True)
    lead_track = Id(required=True)
    anchors = List(List(Float(), validate=Length(2, 2)), load_default=list, validate=Length(0, 1000))


class DeriveIn(Schema):
    operation = Dict(required=True)
    voices = Integer(load_default=1, validate=Range(1, 4))


class DerivedOut(Schema):
    tracks = List(Nested(TrackOut), required=True)


class SungOut(Schema):
    """A note of a melody, in seconds from its file's beginning."""

    start_s = Float(required=True)
    end_s = Float(required=True)
    midi = Float(required=True)


class MelodyOut(Schema):
    notes = List(Nested(SungOut), required=True)


class AlignedOut(Schema):
    """Starts that belong together, in song seconds, and the lead's pitch there."""

    lead_s = Float(required=True)
    follower_s = Float(required=True)
    lead_midi = Float(required=True)


class LeadAloneOut(Schema):
    start_s = Float(required=True)
    end_s = Float(required=True)


class AlignmentOut(Schema):
    pairs = List(Nested(AlignedOut), required=True)
    lead_alone = List(Nested(LeadAloneOut), required=True)
    alone = List(String(), required=True)
