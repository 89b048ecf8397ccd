"""Sound, prints and loudness."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Float, Integer, List, Nested, String
from apiflask.validators import Length, OneOf, Range

from .queries import Id, StepQuery
from .songs import TaskOut

LISTENING = ("tuned", "sung", "difference", "air", "notes", "melody")


class AudioQuery(StepQuery):
    kind = String(load_default="tuned", validate=OneOf(LISTENING))
    preview = Id(load_default=None, allow_none=True)
    begin = Integer(required=True, validate=Range(0, 2**40))
    end = Integer(required=True, validate=Range(0, 2**40))
    ahead = Boolean(load_default=False, metadata={"description": "Nobody waits for it: other sound goes first."})


class PrintSpanIn(Schema):
    start_s = Float(required=True, validate=Range(0, 1e5))
    end_s = Float(required=True, validate=Range(0, 1e5))


class PrintFormIn(Schema):
    container = String(load_default="wav", validate=OneOf(("wav", "flac")))
    bits = Integer(load_default=None, allow_none=True, validate=OneOf((16, 24, 32)))
    lower_db = Float(load_default=0.0, validate=Range(0, 60))
    sample_rate = Integer(load_default=None, allow_none=True)
    spans = List(Nested(PrintSpanIn), load_default=list, validate=Length(0, 1000))
    fade_ms = Float(load_default=15.0, validate=Range(0, 5000))
    pattern = String(load_default="", validate=Length(0, 120))
    handoff = Boolean(load_default=False)
    replace = Boolean(load_default=False)


class PrintIn(PrintFormIn):
    step = Id(load_default=None, allow_none=True)


class PrintsIn(PrintFormIn):
    tracks = List(Id(), load_default=list, validate=Length(0, 200))
    one_length = Boolean(load_default=False)
    mix = Boolean(load_default=False)


class PrintTasksOut(Schema):
    tasks = List(Nested(TaskOut), required=True)


class PrintSummaryOut(Schema):
    untouched_share = Float(required=True)
    moved_share = Float(required=True)
    peak_dbfs = Float(required=True)
    integrated_lufs = Float(required=True, allow_none=True)
    true_peak_dbtp = Float(required=True)
    notes_changed = Integer(required=True)
    air_changed = Integer(required=True)
    borrowed_share = Float(required=True)
    borrowed = List(String(), required=True)
    displaced = List(List(Float()), required=True)
    usual_bits = Integer(required=True)


PRINT_VALUES = (
    "shown_name", "version", "step", "label", "container", "untouched_share", "moved_share", "peak_dbfs",
    "integrated_lufs", "true_peak_dbtp", "notes_changed", "borrowed",
)  # fmt: skip


class PrintEntryOut(Schema):
    """A finished print; what an earlier release did not say of one is null."""

    id = String(required=True)
    track_id = String(required=True)
    created_at = Float(required=True)
    there = Boolean(required=True)
    handed_over = String(required=True, allow_none=True, metadata={"description": "its name in the hand-off folder"})
    trouble = String(required=True, metadata={"description": "why it could not be handed over; empty when nothing"})
    shown_name = String(required=True)
    version = String(required=True, allow_none=True)
    step = Integer(required=True, allow_none=True)
    label = String(required=True, allow_none=True)
    container = String(required=True, allow_none=True)
    untouched_share = Float(required=True)
    moved_share = Float(required=True, allow_none=True)
    peak_dbfs = Float(required=True)
    integrated_lufs = Float(required=True, allow_none=True)
    true_peak_dbtp = Float(required=True, allow_none=True)
    notes_changed = Integer(required=True)
    borrowed = List(String(), required=True, allow_none=True)


class PrintListOut(Schema):
    prints = List(Nested(PrintEntryOut), required=True)


class LoudnessQuery(StepQuery):
    begin_s = Float(load_default=0.0)
    end_s = Float(load_default=None, allow_none=True)


class LoudnessOut(Schema):
    integrated_lufs = Float(required=True, allow_none=True)
    true_peak_dbtp = Float(required=True)


class LoudnessesOut(Schema):
    sung = Nested(LoudnessOut, required=True)
    tuned = Nested(LoudnessOut, required=True)


class MelodyQuery(StepQuery):
    bend = Integer(load_default=0, validate=Range(0, 24))
