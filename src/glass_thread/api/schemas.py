"""Shapes of requests and responses; the OpenAPI description and the TypeScript types come from here."""

from __future__ import annotations

from typing import Any

from apiflask import Schema
from apiflask.fields import Boolean, Dict, File, Float, Integer, List, Nested, Raw, String
from apiflask.validators import Length, OneOf, Range


class Id(String):
    """An id of ours: up to 32 letters and digits."""

    def __init__(self, **settings: Any) -> None:
        super().__init__(validate=Length(1, 32), **settings)


class TrackOut(Schema):
    id = String(required=True)
    song_id = String(required=True)
    name = String(required=True)
    role = String(required=True)
    sample_rate = Integer(required=True)
    channels = Integer(required=True)
    frames = Integer(required=True)
    container = String(required=True)
    subtype = String(required=True)
    duration_s = Float(required=True)
    offset_s = Float(required=True)
    level_db = Float(required=True)
    muted = Boolean(required=True)
    ready = Boolean(required=True)
    notes_found = Integer(required=True)
    version_id = String(required=True, allow_none=True)
    position = Integer(required=True)


class TaskOut(Schema):
    id = String(required=True)
    kind = String(required=True)
    song_id = String(required=True, allow_none=True)
    track_id = String(required=True, allow_none=True)
    state = String(required=True)
    stage = String(required=True)
    share = Float(required=True)
    message = String(required=True)
    wanted = Dict(required=True)
    result = Dict(required=True)


class EarlierKeyOut(Schema):
    tonic = Integer(required=True)
    scale = String(required=True)
    classes = List(Integer(), required=True)
    reference_hz = Float(required=True)
    key_chosen = Boolean(required=True)


class SongOut(Schema):
    id = String(required=True)
    title = String(required=True)
    tonic = Integer(required=True)
    scale = String(required=True)
    classes = List(Integer(), required=True)
    reference_hz = Float(required=True)
    tempo = Float(required=True)
    beats_per_bar = Integer(required=True)
    beat_unit = Integer(required=True)
    bar_one_s = Float(required=True)
    key_chosen = Boolean(required=True)
    earlier_key = Nested(EarlierKeyOut, required=True, allow_none=True)
    words = Dict(required=True)
    done = List(String(), required=True)
    tracks = List(Nested(TrackOut), required=True)
    tasks = List(Nested(TaskOut), required=True)


class SongsOut(Schema):
    songs = List(Nested(SongOut), required=True)


class SongIn(Schema):
    title = String(required=True, validate=Length(1, 200))


class SongChangeIn(Schema):
    title = String(validate=Length(1, 200))
    tonic = Integer(validate=Range(0, 11))
    scale = String()
    classes = List(Integer(validate=Range(0, 11)))
    reference_hz = Float()
    tempo = Float()
    beats_per_bar = Integer()
    beat_unit = Integer()
    bar_one_s = Float()
    words = Dict(keys=String(), values=String(validate=Length(0, 300)))
    done = List(String())


class TrackChangeIn(Schema):
    name = String(validate=Length(1, 120))
    role = String(validate=OneOf(("lead", "double", "harmony", "backing")))
    offset_s = Float(validate=Range(-3600, 7200))
    level_db = Float(validate=Range(-60, 12))
    muted = Boolean()


class TrackIn(Schema):
    file = File(required=True)
    role = String(load_default="lead")
    offset_s = Float(load_default=None, allow_none=True)


class ImportOut(Schema):
    track = Nested(TrackOut, required=True)
    task = Nested(TaskOut, required=True)


class VibratoOut(Schema):
    rate_hz = Float(required=True)
    extent_cents = Float(required=True)
    onset_s = Float(required=True)


class StrokeOut(Schema):
    points = List(List(Float()), required=True)
    keep_fine = Boolean(required=True)


class GestureOut(Schema):
    target_midi = Float(required=True, allow_none=True)
    rounding = String(required=True)
    pull = Float(required=True)
    drift = Float(required=True)
    vibrato = Float(required=True)
    lean_in = Float(required=True)
    lean_out = Float(required=True)
    glide_ms = Float(required=True)
    glide_bend = Float(required=True)
    level_db = Float(required=True)
    formant_shift = Float(required=True)
    added_extent = Float(required=True)
    added_rate_hz = Float(required=True)
    added_onset_ms = Float(required=True)
    added_level = Float(required=True)
    hand = List(Nested(StrokeOut), required=True)


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
    flags = List(String(), required=True)
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


class StepOut(Schema):
    id = String(required=True)
    parent_id = String(required=True, allow_none=True)
    number = Integer(required=True)
    label = String(required=True)
    created_at = Float(required=True)
    line = Integer(required=True)
    at_s = Float(required=True, allow_none=True)


class BranchOut(Schema):
    last = Nested(StepOut, required=True)
    steps = Integer(required=True)


class StepsOut(Schema):
    steps = List(Nested(StepOut), required=True)
    head_number = Integer(required=True)
    branches = List(Nested(BranchOut), required=True)


class StepsQuery(Schema):
    version = Id(load_default=None, allow_none=True)
    before = Integer(load_default=None, allow_none=True, validate=Range(0, 2**31))
    limit = Integer(load_default=200, validate=Range(1, 1000))


class VersionOut(Schema):
    id = String(required=True)
    track_id = String(required=True)
    name = String(required=True)
    note = String(required=True)
    kind = String(required=True, validate=OneOf(("as_sung", "tuned", "made")))
    head_id = String(required=True)
    head_number = Integer(required=True)
    head_label = String(required=True)
    created_at = Float(required=True)
    read_only = Boolean(required=True)
    can_undo = Boolean(required=True)
    can_redo = Boolean(required=True)


class VersionsOut(Schema):
    versions = List(Nested(VersionOut), required=True)
    removed = List(Nested(VersionOut), required=True)


class VersionIn(Schema):
    name = String(required=True, validate=Length(1, 60))
    note = String(load_default="", validate=Length(0, 500))
    from_version = Id(load_default=None, allow_none=True)
    from_step = Id(load_default=None, allow_none=True)


class VersionChangeIn(Schema):
    name = String(validate=Length(1, 60))
    note = String(validate=Length(0, 500))


class CompareQuery(Schema):
    first = Id(required=True)
    second = Id(required=True)


class NoteDifferenceOut(Schema):
    note_id = String(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)
    cut_differently = Boolean(required=True)
    tuned_first = Float(required=True, allow_none=True)
    tuned_second = Float(required=True, allow_none=True)
    first = Nested(GestureOut, required=True, allow_none=True)
    second = Nested(GestureOut, required=True, allow_none=True)


class CompareOut(Schema):
    notes = List(Nested(NoteDifferenceOut), required=True)


class SpanOut(Schema):
    start_s = Float(required=True)
    end_s = Float(required=True)


class FramesOut(Schema):
    first = Integer(required=True)
    last = Integer(required=True)


class ContentOut(Schema):
    track_id = String(required=True)
    step_id = String(required=True)
    version = Nested(VersionOut, required=True)
    notes = List(Nested(NoteOut), required=True)
    air = List(Nested(AirOut), required=True)
    gaps = List(Nested(GapOut), required=True)


class DeltaOut(Schema):
    notes = List(Nested(NoteOut), required=True)
    air = List(Nested(AirOut), required=True)
    gaps = List(Nested(GapOut), required=True)
    gone = List(String(), required=True)
    changed = List(Nested(SpanOut), required=True)
    curves = List(Nested(FramesOut), required=True)


class EditOut(DeltaOut):
    track_id = String(required=True)
    version = Nested(VersionOut, required=True)
    step = Nested(StepOut, required=True, allow_none=True)


class StepQuery(Schema):
    step = Id(load_default=None, allow_none=True)


class VersionQuery(StepQuery):
    version = Id(load_default=None, allow_none=True)


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


class AlikeOut(Schema):
    phrases = List(Integer(), required=True)


class TunePassOut(Schema):
    name = String(required=True)
    hint = String(required=True)
    shipped = Boolean(required=True)
    pull = Float(required=True)
    drift = Float(required=True)
    vibrato = Float(required=True)
    rounding = String(required=True)
    beyond_cents = Float(required=True)
    keep_edited = Boolean(required=True)


class TunePassesOut(Schema):
    passes = List(Nested(TunePassOut), required=True)


class TunePassIn(Schema):
    name = String(required=True, validate=Length(1, 60))
    pull = Float(required=True, validate=Range(0, 1))
    drift = Float(required=True, validate=Range(0, 2))
    vibrato = Float(required=True, validate=Range(0, 3))
    rounding = String(required=True, validate=OneOf(("scale", "semitone")))
    beyond_cents = Float(required=True, validate=Range(0, 1200))
    keep_edited = Boolean(required=True)


class PhraseOut(Schema):
    index = Integer(required=True)
    start_s = Float(required=True)
    end_s = Float(required=True)


class KeyOut(Schema):
    tonic = Integer(required=True)
    scale = String(required=True)
    confidence = Float(required=True)


class AnalysisOut(Schema):
    duration_s = Float(required=True)
    hop_s = Float(required=True)
    frames = Integer(required=True)
    reference_hz = Float(required=True)
    polyphonic = Boolean(required=True)
    phrases = List(Nested(PhraseOut), required=True)
    keys = List(Nested(KeyOut), required=True)


class BaseIn(Schema):
    base = Id(required=True)
    version_id = Id(load_default=None, allow_none=True)


class EditIn(BaseIn):
    operation = Raw(required=True)


class JumpIn(BaseIn):
    to = Id(required=True)


class CurveQuery(StepQuery):
    preview = Id(load_default=None, allow_none=True)
    first = Integer(load_default=0, validate=Range(0, 2**31))
    last = Integer(load_default=None, allow_none=True, validate=Range(0, 2**31))


LISTENING = ("tuned", "sung", "difference", "air", "notes")


class AudioQuery(StepQuery):
    kind = String(load_default="tuned", validate=OneOf(LISTENING))
    preview = Id(load_default=None, allow_none=True)
    begin = Integer(required=True, validate=Range(0, 2**40))
    end = Integer(required=True, validate=Range(0, 2**40))


class KeyIn(Schema):
    tonic = Integer(required=True, validate=Range(0, 11))
    scale = String(required=True)
    classes = List(Integer(validate=Range(0, 11)), load_default=list)
    reference_hz = Float(required=True)


class KeyChangeOut(Schema):
    tuned = Integer(required=True)
    tuned_elsewhere = Integer(required=True)
    untuned_moved = Integer(required=True)


class PrintIn(StepQuery):
    container = String(load_default="wav", validate=OneOf(("wav", "flac")))
    bits = Integer(load_default=None, allow_none=True, validate=OneOf((16, 24, 32)))
    lower_db = Float(load_default=0.0, validate=Range(0, 60))


class PrintSummaryOut(Schema):
    untouched_share = Float(required=True)
    peak_dbfs = Float(required=True)
    notes_changed = Integer(required=True)
    air_changed = Integer(required=True)
    usual_bits = Integer(required=True)


class StackBreathsIn(Schema):
    level_db = Float(load_default=0.0, validate=Range(-60, 12))
    muted = Boolean(load_default=True)


class StackChangeOut(Schema):
    track_id = String(required=True)
    name = String(required=True)
    changed = Integer(required=True)


class StackBreathsOut(Schema):
    tracks = List(Nested(StackChangeOut), required=True)


class LoudnessQuery(StepQuery):
    begin_s = Float(load_default=0.0)
    end_s = Float(load_default=None, allow_none=True)


class LoudnessOut(Schema):
    integrated_lufs = Float(required=True, allow_none=True)
    true_peak_dbtp = Float(required=True)


class LoudnessesOut(Schema):
    sung = Nested(LoudnessOut, required=True)
    tuned = Nested(LoudnessOut, required=True)


class ScalesOut(Schema):
    scales = Dict(keys=String(), values=List(Integer()), required=True)
