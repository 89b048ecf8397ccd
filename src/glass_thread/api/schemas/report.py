"""The tuning sheet."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Float, Integer, List, Nested, String

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
