"""Borrowing."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Float, List, Nested, String
from apiflask.validators import Length

from .queries import Id


class OffersIn(Schema):
    step = Id(load_default=None, allow_none=True)
    note_ids = List(Id(), required=True, validate=Length(1, 64))


class OfferOut(Schema):
    """A place that is alike; seconds of its recording."""

    track_id = String(required=True)
    name = String(required=True)
    note_ids = List(String(), required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    likeness = Float(required=True)
    semitones = Float(required=True)
    times_as_long = Float(required=True)
    same_words = Boolean(required=True)


class OffersOut(Schema):
    offers = List(Nested(OfferOut), required=True)
