"""Shapes of requests and responses; the OpenAPI description and the TypeScript types come from here."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Dict, File, Float, Integer, List, Nested, String
from apiflask.validators import Length, OneOf, Range


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
    revision = Integer(required=True)
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
    number = Integer(required=True)
    label = String(required=True)
    in_force = Boolean(required=True)


class SpanOut(Schema):
    start_s = Float(required=True)
    end_s = Float(required=True)


class DocumentOut(Schema):
    track_id = String(required=True)
    revision = Integer(required=True)
    notes = List(Nested(NoteOut), required=True)
    air = List(Nested(AirOut), required=True)
    gaps = List(Nested(GapOut), required=True)
    steps = List(Nested(StepOut), required=True)
    can_undo = Boolean(required=True)
    can_redo = Boolean(required=True)
    changed = List(Nested(SpanOut), required=True)


class SplitQuery(Schema):
    note_id = String(required=True)
    at_s = Float(required=True)
    exact = Boolean(load_default=False)


class SplitOut(Schema):
    note_id = String(required=True)
    at_s = Float(required=True)
    left_midi = Float(required=True)
    right_midi = Float(required=True)


class PreviewIn(Schema):
    operation = Dict(required=True)


class PreviewOut(Schema):
    notes = List(Nested(NoteOut), required=True)
    air = List(Nested(AirOut), required=True)
    gaps = List(Nested(GapOut), required=True)
    changed_notes = Integer(required=True)
    changed_air = Integer(required=True)
    lost = List(String(), required=True)
    changed = List(Nested(SpanOut), required=True)


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


class EditIn(Schema):
    base_revision = Integer(required=True)
    operation = Dict(required=True)


class RevisionIn(Schema):
    base_revision = Integer(required=True)


class CurveQuery(Schema):
    preview = Boolean(load_default=False)


LISTENING = ("tuned", "sung", "difference", "preview", "marked", "air", "notes")


class AudioQuery(Schema):
    kind = String(load_default="tuned", validate=OneOf(LISTENING))
    step = Integer(load_default=None, allow_none=True)
    begin = Integer(required=True, validate=Range(min=0))
    end = Integer(required=True, validate=Range(min=0))


class PrintIn(Schema):
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


class LoudnessQuery(Schema):
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
