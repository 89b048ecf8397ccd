"""The melody with its words as MusicXML 4.0 (open standard of the W3C Music Notation Community Group)."""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median
from xml.etree.ElementTree import Element, SubElement, indent, tostring

from ... import __version__
from ...core.signal.units import class_name
from ...core.song.beats import Meter, moment_of
from ...core.song.keys import KeyMap
from ...core.song.spelling import major_with_the_same_notes, spelled_with_flats
from ...core.song.ticks import clock_from
from ...core.song.tuning import Tuning
from ..midi_melody import MelodyNote
from .bars import UNITS_A_QUARTER, Bar, Written, written_bars

_DOCTYPE = (
    '<!DOCTYPE score-partwise PUBLIC "-//Recordare//DTD MusicXML 4.0 Partwise//EN" '
    '"http://www.musicxml.org/dtds/partwise.dtd">'
)
_TYPES = {16: "whole", 8: "half", 4: "quarter", 2: "eighth", 1: "16th"}
_ALTERS = {"♯": "1", "♭": "-1"}
# By whether the word of a syllable began before it, and goes on after it.
_SYLLABIC = {(False, False): "single", (False, True): "begin", (True, True): "middle", (True, False): "end"}
_IN_FORCE_S = 1e-6  # after its bar has begun a change of key is
_BASS_BELOW, _LOW_TREBLE_BELOW = 52, 62  # MIDI: where a line is read best (common practice, no source)


def melody_score(
    notes: Sequence[MelodyNote], meters: tuple[Meter, ...], keys: KeyMap, *, title: str, part: str
) -> bytes:
    """The bytes of the file: one voice by sixteenths, in bars from bar 1 on or from whole bars before it; `keys` are in
    the clock of the song."""
    clock = clock_from(meters, min((note.start_s for note in notes), default=meters[0].start_s))
    score = Element("score-partwise", version="4.0")
    SubElement(SubElement(score, "work"), "work-title").text = title
    software = SubElement(SubElement(score, "identification"), "encoding")
    SubElement(software, "software").text = f"Glass Thread {__version__}"
    listed = SubElement(SubElement(score, "part-list"), "score-part", id="P1")
    SubElement(listed, "part-name").text = part
    voice = SubElement(score, "part", id="P1")
    before: tuple[Meter, Tuning] | None = None
    for bar in written_bars(notes, clock):
        key = keys.at(moment_of(meters, bar.number, 1.0) + _IN_FORCE_S)
        _add_bar(voice, bar, key, before, _clef(notes))
        before = bar.meter, key
    indent(score, " ")
    head = f'<?xml version="1.0" encoding="UTF-8"?>\n{_DOCTYPE}\n'
    return head.encode() + tostring(score, encoding="utf-8") + b"\n"


def _clef(notes: Sequence[MelodyNote]) -> tuple[str, int, int]:
    """Sign, line and octaves of the clef."""
    middle = median(note.number for note in notes) if notes else 72
    if middle < _BASS_BELOW:
        return "F", 4, 0
    return "G", 2, -1 if middle < _LOW_TREBLE_BELOW else 0


def _add_bar(
    voice: Element, bar: Bar, key: Tuning, before: tuple[Meter, Tuning] | None, clef: tuple[str, int, int]
) -> None:
    measure = SubElement(voice, "measure", number=str(bar.number))
    said = SubElement(measure, "attributes")
    if before is None:
        SubElement(said, "divisions").text = str(UNITS_A_QUARTER)
    if before is None or before[1] != key:
        written = SubElement(said, "key")
        SubElement(written, "fifths").text = str(fifths_of(key))
        SubElement(written, "mode").text = "minor" if "minor" in key.scale else "major"
    shape = (bar.meter.beats_per_bar, bar.meter.beat_unit)
    if before is None or (before[0].beats_per_bar, before[0].beat_unit) != shape:
        time = SubElement(said, "time")
        SubElement(time, "beats").text, SubElement(time, "beat-type").text = map(str, shape)
    if before is None:
        _add_clef(said, clef)
    if len(said) == 0:
        measure.remove(said)
    if before is None or before[0].tempo != bar.meter.tempo:
        _add_tempo(measure, bar.meter.tempo)
    for one in bar.written:
        _add_note(measure, one, flats=spelled_with_flats(key.tonic, key.scale))


def _add_clef(said: Element, clef: tuple[str, int, int]) -> None:
    sign, line, octaves = clef
    element = SubElement(said, "clef")
    SubElement(element, "sign").text, SubElement(element, "line").text = sign, str(line)
    if octaves:
        SubElement(element, "clef-octave-change").text = str(octaves)


def _add_tempo(measure: Element, tempo: float) -> None:
    direction = SubElement(measure, "direction", placement="above")
    beats = SubElement(SubElement(direction, "direction-type"), "metronome")
    SubElement(beats, "beat-unit").text, SubElement(beats, "per-minute").text = "quarter", f"{tempo:g}"
    SubElement(direction, "sound", tempo=f"{tempo:g}")


def _add_note(measure: Element, one: Written, *, flats: bool) -> None:
    note = SubElement(measure, "note")
    if one.number is None:
        SubElement(note, "rest")
    else:
        name = class_name(one.number % 12, flats=flats)
        pitch = SubElement(note, "pitch")
        SubElement(pitch, "step").text = name[0]
        if len(name) > 1:
            SubElement(pitch, "alter").text = _ALTERS[name[1]]
        SubElement(pitch, "octave").text = str(one.number // 12 - 1)
    SubElement(note, "duration").text = str(one.length)
    ties = [kind for kind, tied in (("stop", one.tied_back), ("start", one.tied_on)) if tied]
    for kind in ties:
        SubElement(note, "tie", type=kind)
    SubElement(note, "voice").text = "1"
    plain = one.length if one.length in _TYPES else one.length * 2 // 3
    SubElement(note, "type").text = _TYPES[plain]
    if plain != one.length:
        SubElement(note, "dot")
    if ties:
        notations = SubElement(note, "notations")
        for kind in ties:
            SubElement(notations, "tied", type=kind)
    if one.lyric:
        lyric = SubElement(note, "lyric")
        goes_on = one.lyric.startswith("-") and len(one.lyric) > 1, one.lyric.endswith("-") and len(one.lyric) > 1
        SubElement(lyric, "syllabic").text = _SYLLABIC[goes_on]
        SubElement(lyric, "text").text = one.lyric[goes_on[0] : len(one.lyric) - goes_on[1]] or one.lyric


def fifths_of(key: Tuning) -> int:
    """Sharps (or flats, negative) of the signature of a key: that of the major key with the same notes."""
    major = major_with_the_same_notes(key.tonic, key.scale)
    sharps = major * 7 % 12
    return sharps - 12 if sharps > 6 or (sharps == 6 and spelled_with_flats(key.tonic, key.scale)) else sharps
