"""Songs, their tracks and tasks."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Dict, File, Float, Integer, List, Nested, String
from apiflask.validators import Length

from .keys import KeyAt, KeysIn, PitchesOut, TemperamentOut


class ProgressOut(Schema):
    flags = Integer(required=True)
    changed = Integer(required=True)
    done_s = Float(required=True)
    sung_s = Float(required=True)
    worked_at = Float(required=True, allow_none=True)


class HandOut(Schema):
    """At a moment of the recording a syllable, by its place in a phrase, begins; without one a note is held on."""

    at_s = Float(required=True)
    phrase = Integer()
    place = Integer()
    text = String()


class LaidOut(Schema):
    """What was said of words by hand; `cuts` has for each word how many characters its syllables have."""

    hands = List(Nested(HandOut))
    cuts = Dict(keys=String(), values=List(Integer()))


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
    words = Dict(keys=String(), values=String(), required=True)
    laid = Nested(LaidOut, required=True)
    progress = Nested(ProgressOut, required=True, allow_none=True)
    derived_from = String(required=True, allow_none=True)
    singer = String(required=True)
    pan = Float(required=True)
    heard_version = String(required=True, allow_none=True)
    head_id = String(required=True, allow_none=True)


class WantedOut(Schema):
    file = String()


class TaskOut(Schema):
    id = String(required=True)
    kind = String(required=True)
    song_id = String(required=True, allow_none=True)
    track_id = String(required=True, allow_none=True)
    state = String(required=True)
    stage = String(required=True)
    share = Float(required=True)
    message = String(required=True)
    wanted = Nested(WantedOut, required=True)
    result = Dict(required=True)


class TempoChange(Schema):
    bar = Integer(required=True)
    beat = Integer(load_default=1, dump_default=1)
    tempo = Float(required=True)
    beats_per_bar = Integer(required=True)
    beat_unit = Integer(required=True)


class Marker(Schema):
    bar = Integer(required=True)
    beat = Float(load_default=1.0)
    text = String(required=True, validate=Length(1, 60))


class TypedChord(Schema):
    """A chord that was typed, from a bar and beat to another, all counted from 1."""

    bar = Integer(required=True)
    beat = Float(required=True)
    until_bar = Integer(required=True)
    until_beat = Float(required=True)
    label = String(required=True, validate=Length(1, 40), metadata={"description": "as ChordOut, or typed: Bbm7"})


class MarkerOut(Marker):
    beat = Float(required=True)
    at_s = Float(required=True)


class SongOut(Schema):
    id = String(required=True)
    title = String(required=True)
    tonic = Integer(required=True)
    scale = String(required=True)
    classes = List(Integer(), required=True)
    reference_hz = Float(required=True)
    reference_key = Integer(required=True)
    reference_name = String(required=True)
    temperament = Nested(TemperamentOut, required=True)
    key_title = String(required=True)
    key_changes = List(Nested(KeyAt), required=True)
    pitches = Nested(PitchesOut, required=True, allow_none=True, metadata={"description": "not told in lists"})
    tempo = Float(required=True)
    beats_per_bar = Integer(required=True)
    beat_unit = Integer(required=True)
    bar_one_s = Float(required=True)
    key_chosen = Boolean(required=True)
    tempo_chosen = Boolean(required=True)
    tempo_changes = List(Nested(TempoChange), required=True)
    turn = Integer(required=True, metadata={"description": "goes up with every step, undo and redo of the song"})
    done = List(String(), required=True)
    markers = List(Nested(MarkerOut), required=True)
    language = String(required=True, metadata={"description": "of the words, ISO 639-1; empty to guess it"})
    chords = List(Nested(TypedChord), required=True)
    handoff = String(required=True, allow_none=True)
    start_s = Float(required=True, allow_none=True, metadata={"description": "time of day of the song's beginning, s"})
    created_at = Float(required=True)
    tracks = List(Nested(TrackOut), required=True)
    tasks = List(Nested(TaskOut), required=True)


class SongsOut(Schema):
    songs = List(Nested(SongOut), required=True)


BASE = {"description": "the turn the change is made on: what was changed since is not overwritten (409)"}


class SongIn(Schema):
    title = String(required=True, validate=Length(1, 200))


class SongChangeIn(KeysIn):
    title = String(validate=Length(1, 200))
    tempo = Float()
    beats_per_bar = Integer()
    beat_unit = Integer()
    bar_one_s = Float()
    tempo_changes = List(Nested(TempoChange))
    markers = List(Nested(Marker))
    language = String(validate=Length(0, 8))
    chords = List(Nested(TypedChord), validate=Length(0, 4000))
    done = List(String())
    base = Integer(metadata=BASE)


class TempoOut(Schema):
    bpm = Float(required=True)
    beats_per_bar = Integer(required=True)
    bar_one_s = Float(required=True)


class TempoEstimateOut(Schema):
    tempos = List(Nested(TempoOut), required=True)
    confidence = Float(required=True)
    heard_in = String(required=True, allow_none=True)


class ChordOut(Schema):
    start_s = Float(required=True)
    end_s = Float(required=True)
    label = String(
        required=True, metadata={"description": "in the syntax of Harte et al. (ISMIR 2005), as C:maj, or N"}
    )
    title = String(required=True, metadata={"description": "as musicians write it, such as B♭m7"})
    classes = List(Integer(), required=True, metadata={"description": "pitch classes from C on, the root first"})
    confidence = Float(required=True, metadata={"description": "0 to 1"})
    typed = Boolean(required=True)


class ChordsOut(Schema):
    chords = List(Nested(ChordOut), required=True)
    heard_in = String(required=True, allow_none=True)


class TypedChordsOut(Schema):
    chords = List(Nested(TypedChord), required=True)


class MidiIn(Schema):
    file = File(required=True)


class ArchiveIn(Schema):
    file = File(required=True)


class MidiTempoOut(Schema):
    tempo = Float(required=True)
    beats_per_bar = Integer(required=True)
    beat_unit = Integer(required=True)
    bar_one_s = Float(required=True)
    tonic = Integer(required=True, allow_none=True)
    scale = String(required=True, allow_none=True)
    key_title = String(required=True)
    key_changes = List(Nested(KeyAt), required=True)
    changes = List(Nested(TempoChange), required=True)
    markers = List(Nested(Marker), required=True)


class OrderIn(Schema):
    tracks = List(String(), required=True)
