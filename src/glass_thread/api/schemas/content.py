"""What is edited of a track, and edits."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Float, Integer, List, Nested, Raw, String
from apiflask.validators import OneOf

from .queries import CurvePieceOut, Id, SpanOut, StepOut, StepQuery, VersionOut


class VibratoOut(Schema):
    rate_hz = Float(required=True)
    extent_cents = Float(required=True)
    onset_s = Float(required=True)


class StrokeOut(Schema):
    points = List(List(Float()), required=True)
    keep_fine = Boolean(required=True)
    as_sung = Boolean(required=True)


class GestureOut(Schema):
    target_midi = Float(required=True, allow_none=True)
    rounding = String(required=True)
    pull = Float(required=True)
    within_cents = Float(required=True)
    drift = Float(required=True)
    vibrato = Float(required=True)
    movement = Float(required=True)
    scoop = Float(required=True)
    fall = Float(required=True)
    lean_in = Float(required=True)
    lean_out = Float(required=True)
    glide_ms = Float(required=True, allow_none=True)
    glide_bend = Float(required=True)
    level_db = Float(required=True)
    formant_shift = Float(required=True)
    added_extent = Float(required=True)
    added_rate_hz = Float(required=True)
    added_onset_ms = Float(required=True)
    added_level = Float(required=True)
    start_shift_ms = Float(required=True)
    end_shift_ms = Float(required=True)
    hand = List(Nested(StrokeOut), required=True)
    candidates = List(Float(), required=True)


class FlagOut(Schema):
    kind = String(required=True)
    reason = String(required=True)
    hurt = Float(required=True)


class NoteOut(Schema):
    id = String(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    centre_midi = Float(required=True)
    drift_cents_per_s = Float(required=True)
    vibrato = Nested(VibratoOut, required=True, allow_none=True)
    level_db = Float(required=True)
    phrase = Integer(required=True)
    octave = Integer(required=True)
    centre_span = List(Float(), required=True, allow_none=True)
    target_midi = Float(required=True)
    tuned_midi = Float(required=True)
    edited = Boolean(required=True)
    flags = List(Nested(FlagOut), required=True)
    meant = List(String(), required=True)
    spoken = Boolean(required=True)
    leave_as_sung = Boolean(required=True)
    strain = Float(required=True)
    kept = Float(required=True)
    advice = String(required=True)
    gesture = Nested(GestureOut, required=True)


class AirOut(Schema):
    id = String(required=True)
    kind = String(required=True, validate=OneOf(("sibilant", "consonant", "breath")))
    start_s = Float(required=True)
    end_s = Float(required=True)
    level_db = Float(required=True)
    high_db = Float(required=True)
    voiced = Boolean(required=True)
    change_db = Float(required=True)
    muted = Boolean(required=True)
    owner = String(required=True, allow_none=True)
    harsh_db = Float(required=True, allow_none=True)


class GapOut(Schema):
    id = String(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    level_db = Float(required=True)
    muted = Boolean(required=True)


class PinOut(Schema):
    id = String(required=True)
    at_s = Float(required=True)
    track_s = Float(required=True)


class GlazeOut(Schema):
    id = String(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    settle_ms = Float(required=True)
    strength = Float(required=True)
    rounding = String(required=True, validate=OneOf(("scale", "semitone")))
    tolerance_cents = Float(required=True)
    shortest_ms = Float(required=True)
    keep_vibrato = Boolean(required=True)


class LevelStretchOut(Schema):
    """A stretch of the recording that is louder, softer or silent, with fades at both ends."""

    id = String(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    level_db = Float(required=True)
    muted = Boolean(required=True)
    fade_ms = Float(required=True)


class BorrowOut(Schema):
    """A stretch of the recording in whose place another one is heard; `clean` when its joins are not heard."""

    id = String(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    name = String(required=True)
    clean = Boolean(required=True)


class LinkOut(Schema):
    """A track that this one follows, by strengths from 0 to 1; `behind` when that has changed since."""

    id = String(required=True)
    lead_track = String(required=True)
    lead = String(required=True)
    behind = Boolean(required=True)
    timing = Float(required=True)
    pitch = Float(required=True)
    level = Float(required=True)
    movement = Boolean(required=True)
    interval = String(required=True, validate=OneOf(("scale", "semitones")))
    derived = Boolean(required=True)
    by_itself = Boolean(required=True)


class ChoiceOut(Schema):
    id = String(required=True)
    start_s = Float(required=True)
    version_id = String(required=True)
    step_id = String(required=True)


class TimesOut(Schema):
    """Anchors of a time map: moments of the recording and of the track."""

    source_s = List(Float(), required=True)
    track_s = List(Float(), required=True)


class TimesChangeOut(TimesOut):
    """What takes the place of all anchors but the first `head` and the last `tail`."""

    head = Integer(required=True)
    tail = Integer(required=True)


class SingerOut(Schema):
    usual_cents = Float(required=True)
    lean_cents = Float(required=True)


class ContentOut(Schema):
    track_id = String(required=True)
    step_id = String(required=True)
    version = Nested(VersionOut, required=True)
    notes = List(Nested(NoteOut), required=True)
    air = List(Nested(AirOut), required=True)
    gaps = List(Nested(GapOut), required=True)
    pins = List(Nested(PinOut), required=True)
    glazes = List(Nested(GlazeOut), required=True)
    choices = List(Nested(ChoiceOut), required=True)
    borrows = List(Nested(BorrowOut), required=True)
    links = List(Nested(LinkOut), required=True)
    level_stretches = List(Nested(LevelStretchOut), required=True)
    times = Nested(TimesOut, required=True)
    singer = Nested(SingerOut, required=True)


class DeltaOut(Schema):
    notes = List(Nested(NoteOut), required=True)
    air = List(Nested(AirOut), required=True)
    gaps = List(Nested(GapOut), required=True)
    pins = List(Nested(PinOut), required=True)
    glazes = List(Nested(GlazeOut), required=True)
    choices = List(Nested(ChoiceOut), required=True)
    borrows = List(Nested(BorrowOut), required=True)
    links = List(Nested(LinkOut), required=True)
    level_stretches = List(Nested(LevelStretchOut), required=True)
    times = Nested(TimesChangeOut, required=True, allow_none=True)
    gone = List(String(), required=True)
    changed = List(Nested(SpanOut), required=True)
    curves = List(Nested(CurvePieceOut), required=True)


class EditOut(DeltaOut):
    track_id = String(required=True)
    version = Nested(VersionOut, required=True)
    step = Nested(StepOut, required=True, allow_none=True)
    others = List(String(), required=True)


class SplitQuery(StepQuery):
    note_id = String(required=True)
    at_s = Float(required=True)
    exact = Boolean(load_default=False)


class SplitOut(Schema):
    note_id = String(required=True)
    at_s = Float(required=True)
    left_midi = Float(required=True)
    right_midi = Float(required=True)


class PreviewIn(Schema):
    step = Id(load_default=None, allow_none=True)
    operation = Raw(required=True)


class PreviewOut(DeltaOut):
    preview_id = String(required=True)
    changed_notes = Integer(required=True)
    changed_air = Integer(required=True)
    lost = List(String(), required=True)


class CandidateOut(Schema):
    midi = Float(required=True)
    label = String(required=True)
    sits = String(required=True)


class CandidatesOut(Schema):
    candidates = List(Nested(CandidateOut), required=True)


class AlikeOut(Schema):
    phrases = List(Integer(), required=True)


class BaseIn(Schema):
    base = Id(required=True)
    version_id = Id(load_default=None, allow_none=True)


class EditIn(BaseIn):
    operation = Raw(required=True)


class JumpIn(BaseIn):
    to = Id(required=True)


class TimeRoomIn(Schema):
    step = Id(load_default=None, allow_none=True)
    note_ids = List(String(), required=True)
    edge = String(load_default="both", validate=OneOf(("both", "start", "end")))
    follow = Boolean(load_default=False)


class TimeRoomOut(Schema):
    least_ms = Float(required=True)
    most_ms = Float(required=True)
