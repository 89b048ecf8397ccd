"""The tuning sheet, and notes on singers."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Float, Integer, List, Nested, String
from apiflask.validators import OneOf

from ...services.report.singer_notes import SCOPES
from .queries import Id, VersionQuery


class SheetQuery(VersionQuery):
    against = Id(load_default=None, allow_none=True)


class SheetRowOut(Schema):
    """One change; cents from the target before and after, null without a pitch."""

    phrase = Integer(required=True)
    at_s = Float(required=True)
    bar = String(required=True)
    kind = String(required=True)
    what = String(required=True)
    before_cents = Float(required=True, allow_none=True)
    after_cents = Float(required=True, allow_none=True)
    changed = List(String(), required=True)
    strain = Float(required=True, allow_none=True)
    kept = Float(required=True, allow_none=True)
    version = String(required=True)
    advice = String(required=True)
    word = String(required=True)


class SheetPhraseOut(Schema):
    number = Integer(required=True)
    words = String(required=True)
    at_s = Float(required=True)
    bar = String(required=True)
    rows = List(Nested(SheetRowOut), required=True)


class TuningSheetOut(Schema):
    song = String(required=True)
    track = String(required=True)
    version = String(required=True)
    against = String(required=True)
    step_id = String(required=True, allow_none=True)
    phrases = List(Nested(SheetPhraseOut), required=True)
    notes = Integer(required=True)
    notes_changed = Integer(required=True)
    air_changed = Integer(required=True)
    borrowed = Integer(required=True)
    strongest = List(Nested(SheetRowOut), required=True)
    again = List(Nested(SheetRowOut), required=True)


class SingerNotesQuery(Schema):
    scope = String(load_default="take", validate=OneOf(SCOPES))


class PlaceOut(Schema):
    """A note in a take, in song seconds, with the value that is read there."""

    track_id = String(required=True)
    song = String(required=True)
    track = String(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    bar = String(required=True)
    value = Float(required=True)
    word = String(required=True)


class ClaimOut(Schema):
    """A habit: its size and the interval it lies in to 99 %, on `count` of `of` notes."""

    name = String(required=True)
    kind = String(required=True, validate=OneOf(("fault", "praise")))
    size = Float(required=True)
    low = Float(required=True)
    high = Float(required=True)
    unit = String(required=True)
    count = Integer(required=True)
    of = Integer(required=True)
    words = String(required=True)
    practise = String(required=True)
    change = String(required=True)
    values = List(Nested(PlaceOut), required=True)
    clearest = List(Nested(PlaceOut), required=True)


class SingerNotesOut(Schema):
    singer = String(required=True)
    takes = Integer(required=True)
    notes = Integer(required=True)
    left_out = Integer(required=True)
    confidence = Float(required=True)
    claims = List(Nested(ClaimOut), required=True)
