"""Words on notes."""

from __future__ import annotations

from apiflask import Schema
from apiflask.fields import Boolean, Dict, File, Float, Integer, List, Nested, String
from apiflask.validators import Length, OneOf, Range

from .queries import Id
from .songs import LaidOut


class SyllableOut(Schema):
    text = String(required=True)
    word = String(required=True)
    part = Integer(required=True, metadata={"description": "which of the word's syllables it is, from 0"})
    count = Integer(required=True, metadata={"description": "how many syllables the word has"})
    phrase = Integer(required=True)
    place = Integer(required=True, metadata={"description": "which of the phrase's syllables it is, from 0"})
    note_id = String(required=True)
    by_hand = Boolean(required=True)


class SyllablesOut(Schema):
    syllables = List(Nested(SyllableOut), required=True)
    laid = Nested(LaidOut, required=True)
    turn = Integer(required=True, metadata={"description": "of the song, as in SongOut"})
    language = String(required=True, metadata={"description": "ISO 639-1; guessed where the song has none"})
    languages = List(String(), required=True, metadata={"description": "those that may be chosen"})


class SayIn(Schema):
    """Something said of words by hand: a syllable may `begin` at a note, notes be `hold` or `forget` what was said of
    them, a word be `cut`."""

    type = String(required=True, validate=OneOf(("begin", "hold", "forget", "cut")))
    note_ids = List(Id(), load_default=list, validate=Length(0, 20_000))
    phrase = Integer(load_default=0, validate=Range(0, 99_999))
    place = Integer(load_default=0, validate=Range(0, 99_999))
    word = String(load_default="", validate=Length(0, 300))
    parts = List(String(validate=Length(1, 300)), load_default=list, validate=Length(0, 20))


class LyricsIn(Schema):
    file = File(required=True)


class WordsOut(Schema):
    words = Dict(keys=String(), values=String(), required=True)


class BetterOut(Schema):
    note_id = String(required=True)
    word = String(required=True)
    track_id = String(required=True)
    track = String(required=True)
    other_id = String(required=True, metadata={"description": "the note on which it is sung better"})
    start_s = Float(required=True, metadata={"description": "in seconds of the song"})
    off_cents = Float(required=True)
    other_off_cents = Float(required=True)


class SungBetterOut(Schema):
    better = List(Nested(BetterOut), required=True)
