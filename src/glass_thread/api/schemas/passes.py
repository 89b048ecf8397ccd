"""Tune passes and glazes."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Float, List, Nested, String
from apiflask.validators import Length, OneOf, Range


class TunePassOut(Schema):
    name = String(required=True)
    hint = String(required=True)
    shipped = Boolean(required=True)
    pull = Float(required=True)
    within_cents = Float(required=True)
    movement = Float(required=True)
    drift = Float(required=True)
    vibrato = Float(required=True)
    scoop = Float(required=True)
    fall = Float(required=True)
    rounding = String(required=True)
    beyond_cents = Float(required=True)
    keep_edited = Boolean(required=True)


class TunePassesOut(Schema):
    passes = List(Nested(TunePassOut), required=True)


class TunePassIn(Schema):
    name = String(required=True, validate=Length(1, 60))
    pull = Float(required=True, validate=Range(0, 1))
    within_cents = Float(load_default=0.0, validate=Range(0, 100))
    movement = Float(load_default=1.0, validate=Range(0, 2))
    scoop = Float(load_default=1.0, validate=Range(0, 2))
    fall = Float(load_default=1.0, validate=Range(0, 2))
    drift = Float(required=True, validate=Range(0, 2))
    vibrato = Float(required=True, validate=Range(0, 3))
    rounding = String(required=True, validate=OneOf(("scale", "semitone")))
    beyond_cents = Float(required=True, validate=Range(0, 1200))
    keep_edited = Boolean(required=True)


class GlazePresetOut(Schema):
    name = String(required=True)
    words = String(required=True)
    settle_ms = Float(required=True)
    strength = Float(required=True)
    tolerance_cents = Float(required=True)
    shortest_ms = Float(required=True)
    keep_vibrato = Boolean(required=True)


class GlazePresetsOut(Schema):
    presets = List(Nested(GlazePresetOut), required=True)
