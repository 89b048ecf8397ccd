"""Tracks that follow each other."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Dict, Float, Integer, List, Nested, String
from apiflask.validators import Length, OneOf, Range

from ...core.document.operations.kinds import MOST_POINTS
from ...core.document.voices.melodies import WAYS
from ...services.voices.melodies import LONGEST_TYPED
from .content import PreviewOut
from .queries import Id
from .songs import TrackOut


class AlignmentIn(Schema):
    step = Id(load_default=None, allow_none=True)
    lead_track = Id(required=True)
    anchors = List(List(Float(), validate=Length(2, 2)), load_default=list, validate=Length(0, 1000))


class FollowerOut(Schema):
    """A follower that caught up, or `trouble`: why it could not."""

    track_id = String(required=True)
    name = String(required=True)
    trouble = String(required=True)


class CaughtUpOut(Schema):
    tracks = List(Nested(FollowerOut), required=True)


class DeriveIn(Schema):
    operation = Dict(required=True)
    voices = Integer(load_default=1, validate=Range(1, 4))


class TryVoicesIn(DeriveIn):
    step = Id(load_default=None, allow_none=True)


class TriedVoiceOut(Schema):
    """A voice that would be made: the preview it is heard as, and where it is heard, dB over its lead."""

    preview_id = String(required=True)
    pan = Float(required=True)
    level_db = Float(required=True)


class TriedVoicesOut(Schema):
    """What the first of some voices changes, and all of them."""

    first = Nested(PreviewOut, required=True)
    voices = List(Nested(TriedVoiceOut), required=True)


class StackEditIn(Schema):
    operation = Dict(required=True)
    tracks = List(Id(), required=True, validate=Length(1, 200))


class StackChangeOut(Schema):
    """How much was changed in a track."""

    track_id = String(required=True)
    name = String(required=True)
    changed = Integer(required=True)


class StackEditOut(Schema):
    tracks = List(Nested(StackChangeOut), required=True)


class InSmallOut(Schema):
    """Notes of a track, and its highest level in each `outline_s` seconds, full scale 127."""

    notes = List(Nested(lambda: SungOut()), required=True)
    outline = List(Integer(), required=True)
    outline_s = Float(required=True)


class DerivedOut(Schema):
    tracks = List(Nested(TrackOut), required=True)


class SungOut(Schema):
    """A note with its pitch in MIDI, in seconds from the beginning of its file or track."""

    start_s = Float(required=True)
    end_s = Float(required=True)
    midi = Float(required=True)


class MelodyOut(Schema):
    notes = List(Nested(SungOut), required=True)


class TypedMelodyIn(Schema):
    text = String(required=True, validate=Length(1, LONGEST_TYPED))


class TypedMelodyOut(Schema):
    """MIDI pitches; null where a note is left out."""

    pitches = List(Float(allow_none=True), required=True)


class MelodyMatchIn(Schema):
    """A melody in seconds of the track, and how its notes are found."""

    step = Id(load_default=None, allow_none=True)
    note_ids = List(String(), load_default=list, validate=Length(0, MOST_POINTS))
    melody = List(List(Float(), validate=Length(3, 3)), required=True, validate=Length(1, MOST_POINTS))
    match = String(load_default="time", validate=OneOf(WAYS))


class MelodyMatchOut(Schema):
    """Notes of the track that are not in the melody, and places in the melody that no note has."""

    alone = List(String(), required=True)
    melody_alone = List(Integer(), required=True)


class AlignedOut(Schema):
    """Starts that belong together, in song seconds, and the lead's pitch there."""

    lead_s = Float(required=True)
    follower_s = Float(required=True)
    lead_midi = Float(required=True)


class LeadAloneOut(Schema):
    start_s = Float(required=True)
    end_s = Float(required=True)


class AlignmentOut(Schema):
    pairs = List(Nested(AlignedOut), required=True)
    lead_alone = List(Nested(LeadAloneOut), required=True)
    alone = List(String(), required=True)
    in_a_round = Boolean(required=True, metadata={"description": "the lead follows this track already"})
