"""Sound, prints and loudness."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Float, Integer, Nested, String
from apiflask.validators import OneOf, Range

from .queries import Id, StepQuery

LISTENING = ("tuned", "sung", "difference", "air", "notes")


class AudioQuery(StepQuery):
    kind = String(load_default="tuned", validate=OneOf(LISTENING))
    preview = Id(load_default=None, allow_none=True)
    begin = Integer(required=True, validate=Range(0, 2**40))
    end = Integer(required=True, validate=Range(0, 2**40))


class PrintIn(StepQuery):
    container = String(load_default="wav", validate=OneOf(("wav", "flac")))
    bits = Integer(load_default=None, allow_none=True, validate=OneOf((16, 24, 32)))
    lower_db = Float(load_default=0.0, validate=Range(0, 60))


class PrintSummaryOut(Schema):
    untouched_share = Float(required=True)
    moved_share = Float(required=True)
    peak_dbfs = Float(required=True)
    notes_changed = Integer(required=True)
    air_changed = Integer(required=True)
    usual_bits = Integer(required=True)


class LoudnessQuery(StepQuery):
    begin_s = Float(load_default=0.0)
    end_s = Float(load_default=None, allow_none=True)


class LoudnessOut(Schema):
    integrated_lufs = Float(required=True, allow_none=True)
    true_peak_dbtp = Float(required=True)


class LoudnessesOut(Schema):
    sung = Nested(LoudnessOut, required=True)
    tuned = Nested(LoudnessOut, required=True)
