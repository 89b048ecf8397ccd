"""The melody of a voice as a Standard MIDI file (type 1): tempo, meter, key, notes, words, pitch bend on request."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from io import BytesIO

import mido

from ..core.signal.errors import ParameterError
from ..core.song.beats import Meter
from ..core.song.keys import KeyMap
from ..core.song.spelling import major_with_the_same_notes
from ..core.song.ticks import TICKS_A_QUARTER, TickClock, clock_from
from ..core.song.tuning import Tuning

MOST_BEND = 24
Timed = list[tuple[int, mido.Message]]
_CENTRE, _FINEST = 8192, 12  # of 16,384 steps; the smallest change of bend that is written
# Names of major keys by pitch class, as key signatures spell them, and of minor ones (Standard MIDI Files 1.0, FF 59).
_MAJORS = ("C", "Db", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
_MINORS = ("Cm", "C#m", "Dm", "Ebm", "Em", "Fm", "F#m", "Gm", "G#m", "Am", "Bbm", "Bm")


@dataclass(frozen=True)
class MelodyNote:
    """A note in song seconds: MIDI number, velocity 1 to 127, the word it begins, and its bend as (song s, semitones
    above the number) points."""

    start_s: float
    end_s: float
    number: int
    velocity: int
    lyric: str = ""
    bend: tuple[tuple[float, float], ...] = ()


def melody_file(
    notes: Sequence[MelodyNote], meters: tuple[Meter, ...], keys: KeyMap, *, title: str, bend_range: int = 0
) -> bytes:
    """The bytes of the file; tick 0 is bar 1, or whole bars before it when a note comes earlier.

    Parameters
    ----------
    keys : KeyMap
        In the clock of the song.
    bend_range : int
        Semitones that the bend wheel's end stands for (said in the file by registered parameter 0), 0 for no bend.

    Raises
    ------
    ParameterError
        If the range is not from 0 to 24.
    """
    if not 0 <= bend_range <= MOST_BEND:
        raise ParameterError(f"The range of pitch bend is 1 to {MOST_BEND} semitones, or 0 for none.")
    clock = clock_from(meters, min((note.start_s for note in notes), default=meters[0].start_s))
    file = mido.MidiFile(type=1, ticks_per_beat=TICKS_A_QUARTER, charset="utf-8")
    file.tracks += [_track(_conductor(clock, keys, title)), _track(_sung(clock, notes, bend_range))]
    out = BytesIO()
    file.save(file=out)
    return out.getvalue()


def _conductor(clock: TickClock, keys: KeyMap, title: str) -> Timed:
    """Title, keys, tempos and meters."""
    found: Timed = [
        (0, mido.MetaMessage("track_name", name=title)),
        (0, mido.MetaMessage("key_signature", key=signature(keys.first))),
        *((max(0, clock.ticks(at)), mido.MetaMessage("key_signature", key=signature(tuning)))
          for at, tuning in zip(keys.starts_s, keys.tunings[1:], strict=True)),
    ]  # fmt: skip
    shape = (0, 0)
    for i, meter in enumerate(clock.meters):
        at = clock.ticks(meter.start_s) if i else 0
        found.append((at, mido.MetaMessage("set_tempo", tempo=round(60e6 / meter.tempo))))
        now = (meter.beats_per_bar, meter.beat_unit)
        if now != shape:
            found.append((at, mido.MetaMessage("time_signature", numerator=now[0], denominator=now[1])))
        shape = now
    return found


def _sung(clock: TickClock, notes: Sequence[MelodyNote], bend_range: int) -> Timed:
    """Notes, words and bends."""
    found: Timed = [(0, mido.MetaMessage("track_name", name="Melody"))]
    if bend_range:  # registered parameter 0 is the range of pitch bend (MIDI 1.0); 127, 127 is none
        said = ((101, 0), (100, 0), (6, bend_range), (38, 0), (101, 127), (100, 127))
        found += [(0, mido.Message("control_change", control=control, value=value)) for control, value in said]
    for note, after in itertools.zip_longest(notes, notes[1:]):
        begin = clock.ticks(note.start_s)
        end = max(begin + 1, clock.ticks(min(note.end_s, after.start_s) if after else note.end_s))
        if note.lyric:
            found.append((begin, mido.MetaMessage("lyrics", text=note.lyric)))
        bends = _bends(note, bend_range) if bend_range else []
        found += [(clock.ticks(at), mido.Message("pitchwheel", pitch=value)) for at, value in bends]
        found.append((begin, mido.Message("note_on", note=note.number, velocity=note.velocity)))
        found.append((end, mido.Message("note_off", note=note.number, velocity=0)))
    return found


def signature(key: Tuning) -> str:
    """The key signature of a scale: its own for major and minor, else that of the major key with the same notes."""
    if "minor" in key.scale:
        return _MINORS[key.tonic]
    return _MAJORS[major_with_the_same_notes(key.tonic, key.scale)]


def _bends(note: MelodyNote, bend_range: int) -> list[tuple[float, int]]:
    """Times and wheel positions of a note's bend, without those that hardly differ; the first one at its start."""
    found: list[tuple[float, int]] = []
    for at, semitones in ((note.start_s, note.bend[0][1] if note.bend else 0.0), *note.bend):
        value = max(-_CENTRE, min(_CENTRE - 1, round(semitones / bend_range * _CENTRE)))
        if not found or abs(value - found[-1][1]) >= _FINEST:
            found.append((max(at, note.start_s), value))
    return found


def _track(timed: Timed) -> mido.MidiTrack:
    """Messages at their ticks as a track; ends of notes come before beginnings at the same tick."""
    order = {"note_off": 0, "lyrics": 2, "pitchwheel": 1, "note_on": 3}
    track, at = mido.MidiTrack(), 0
    for tick, message in sorted(timed, key=lambda pair: (pair[0], order.get(pair[1].type, -1))):
        track.append(message.copy(time=max(0, tick - at)))
        at = max(at, tick)
    track.append(mido.MetaMessage("end_of_track", time=0))
    return track
