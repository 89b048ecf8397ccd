"""Tracks that follow each other."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Float, List, Nested, String
from apiflask.validators import Length

from .queries import Id


class AlignmentIn(Schema):
    step = Id(load_default=None, allow_none=True)
    lead_track = Id(required=True)
    anchors = List(List(Float(), validate=Length(2, 2)), load_default=list, validate=Length(0, 1000))


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
