"""Tracks and what was found in them."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Dict, File, Float, Integer, List, Nested, String
from apiflask.validators import Length, OneOf, Range

from .queries import Id, StepQuery
from .songs import BASE, TaskOut, TrackOut


class TrackChangeIn(Schema):
    name = String(validate=Length(1, 120))
    role = String(validate=OneOf(("lead", "double", "harmony", "backing")))
    offset_s = Float(validate=Range(-3600, 7200))
    level_db = Float(validate=Range(-60, 12))
    muted = Boolean()
    pan = Float(validate=Range(-1, 1))
    singer = String(validate=Length(0, 80))
    heard_version = Id(allow_none=True)
    words = Dict(keys=String(), values=String(validate=Length(0, 300)))
    base = Integer(metadata=BASE)


class TrackIn(Schema):
    file = File(required=True)
    role = String(load_default=None, allow_none=True)
    offset_s = Float(load_default=None, allow_none=True)
    as_far = Boolean(load_default=False)


class ImportOut(Schema):
    track = Nested(TrackOut, required=True)
    task = Nested(TaskOut, required=True)
    told = String(required=True, metadata={"description": "what is to be said of its place; empty when nothing"})


class PhraseOut(Schema):
    index = Integer(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)


class KeyOut(Schema):
    tonic = Integer(required=True)
    scale = String(required=True)
    title = String(required=True)
    confidence = Float(required=True)


class KeysOut(Schema):
    keys = List(Nested(KeyOut), required=True)
    reference_hz = Float(required=True)
    sung_cents = Float(required=True)
    sung_certainty = Float(required=True)
    with_backing = Boolean(required=True)


class AnalysisOut(Schema):
    duration_s = Float(required=True)
    hop_s = Float(required=True)
    frames = Integer(required=True)
    polyphonic = Boolean(required=True)
    band_limited = Boolean(required=True)
    phrases = List(Nested(PhraseOut), required=True)


class CutOut(Schema):
    at_s = Float(required=True)
    before = String(required=True)
    after = String(required=True)
    confidence = Float(required=True)


class CutsOut(Schema):
    cuts = List(Nested(CutOut), required=True)


class OutlineQuery(Schema):
    columns = Integer(load_default=240, validate=Range(1, 4000))


class CurveQuery(StepQuery):
    preview = Id(load_default=None, allow_none=True)
    first = Integer(load_default=0, validate=Range(0, 2**31))
    last = Integer(load_default=None, allow_none=True, validate=Range(0, 2**31))
