"""Keys and tunings of songs."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, File, Float, Integer, List, Nested, String
from apiflask.validators import Length, OneOf, Range

from ...core.song.keys import MOST_CHANGES
from ...core.song.temperaments import TEMPERAMENTS
from ...services.session.keys import LONGEST_FILE, MOST_STEPS, SCALA

Step = Integer(validate=Range(0, MOST_STEPS))


class Temperament(Schema):
    """How steps are laid; with "scala" from the text of a scale file and, when there is one, of a keyboard mapping."""

    name = String(required=True, validate=OneOf([*TEMPERAMENTS, SCALA]))
    scl = String(load_default=None, allow_none=True, validate=Length(0, LONGEST_FILE))
    kbm = String(load_default=None, allow_none=True, validate=Length(0, LONGEST_FILE))


class TemperamentOut(Schema):
    """`title` is what the scale file calls itself, `mapped` whether there is a keyboard mapping."""

    name = String(required=True)
    title = String(required=True)
    mapped = Boolean(required=True)


class KeyAt(Schema):
    """Another key from a bar and beat on."""

    bar = Integer(required=True)
    beat = Float(load_default=1.0, dump_default=1.0)
    tonic = Integer(required=True, validate=Range(0, 11))
    scale = String(required=True)
    classes = List(Step, load_default=list)


class KeysIn(Schema):
    tonic = Integer(validate=Range(0, 11))
    scale = String()
    classes = List(Step, validate=Length(0, MOST_STEPS))
    reference_hz = Float()
    reference_key = Integer(validate=Range(0, 127))
    temperament = Nested(Temperament)
    key_changes = List(Nested(KeyAt), validate=Length(0, MOST_CHANGES))


class PitchLineOut(Schema):
    midi = Float(required=True)
    name = String(required=True)
    near = String(required=True)
    degree = Integer(required=True)
    allowed = Boolean(required=True)
    step = Integer(required=True)


class KeyPlaceOut(Schema):
    """A key from a moment of the song on; `tuning` counts among the pitches of the song."""

    start_s = Float(required=True)
    bar = Integer(required=True)
    beat = Float(required=True)
    title = String(required=True)
    tonic = Integer(required=True)
    scale = String(required=True)
    classes = List(Integer(), required=True)
    tuning = Integer(required=True)


class TuningOut(Schema):
    """Every pitch from C−1 to G9, rising; `steps` in a period, `twelve` when they are those of a keyboard."""

    steps = Integer(required=True)
    twelve = Boolean(required=True)
    lines = List(Nested(PitchLineOut), required=True)


class PitchesOut(Schema):
    tunings = List(Nested(TuningOut), required=True)
    keys = List(Nested(KeyPlaceOut), required=True)


class ElsewhereOut(Schema):
    track_id = String(required=True)
    track = String(required=True)
    note_id = String(required=True)
    bar = String(required=True)
    start_s = Float(required=True)
    now = String(required=True)
    then = String(required=True)
    cents = Float(required=True)
    tuned = Boolean(required=True)


class KeyChangeOut(Schema):
    """What other keys would mean, and the pitches there would be."""

    tuned = Integer(required=True)
    tuned_elsewhere = Integer(required=True)
    untuned_moved = Integer(required=True)
    elsewhere = List(Nested(ElsewhereOut), required=True)
    pitches = Nested(PitchesOut, required=True)


class ScalaIn(Schema):
    file = File(required=True)


class ScalaOut(Schema):
    """A file that was read: its text, what it is in words, and whether a scale has twelve steps to the octave."""

    text = String(required=True)
    words = String(required=True)
    twelve = Boolean(required=True)


class ScaleOut(Schema):
    """A scale by name: steps above the tonic in semitones, and the tonics as it spells them, from C."""

    name = String(required=True)
    steps = List(Integer(), required=True)
    tonics = List(String(), required=True)


class TemperamentWords(Schema):
    name = String(required=True)
    words = String(required=True)


class ReferenceOut(Schema):
    """A key of a MIDI keyboard that can be the reference, by name."""

    key = Integer(required=True)
    name = String(required=True)


class ScalesOut(Schema):
    scales = List(Nested(ScaleOut), required=True)
    temperaments = List(Nested(TemperamentWords), required=True)
    references = List(Nested(ReferenceOut), required=True)
