"""Tempo, meter and key of a Standard MIDI file, with their changes, and its markers."""

from __future__ import annotations

import struct
from dataclasses import dataclass, replace
from io import BytesIO
from typing import BinaryIO

import mido
from mido.midifiles.meta import KeySignatureError

from ..core.signal.errors import AudioError
from ..core.song.beats import MOST_CHANGES, Marker, Meter, TempoChange, place_of, tempo_map
from ..core.song.keys import MOST_CHANGES as MOST_KEYS
from ..core.song.keys import parse_key
from ..core.song.tuning import Tuning

LARGEST_MIDI = 4 << 20
LONGEST_MARKER, MOST_MARKERS = 60, 500
_EVEN = 60.0  # beats a minute at which a second is a quarter note
DEFAULT_TEMPO = 500_000  # microseconds a beat where the file names none (Standard MIDI Files 1.0)
# What the library raises over bytes that are no MIDI file.
DAMAGED = (OSError, EOFError, ValueError, LookupError, TypeError, struct.error, KeySignatureError)


@dataclass(frozen=True)
class KeyChange:
    """Another key from a bar and beat on, both counted from 1."""

    bar: int
    beat: float
    tonic: int
    scale: str


@dataclass(frozen=True)
class MidiTempo:
    """What a file says: its beginning, where bar 1 is at time 0, and the tempos and meters that follow.

    A tempo that changes between two beats is taken from the beat before on.
    """

    tempo: float
    beats_per_bar: int
    beat_unit: int
    tonic: int | None
    scale: str | None
    changes: tuple[TempoChange, ...]
    bar_one_s: float = 0.0
    markers: tuple[Marker, ...] = ()
    key_changes: tuple[KeyChange, ...] = ()


def read_midi_tempo(stream: BinaryIO) -> MidiTempo:
    """Read a Standard MIDI file; AudioError with a sentence when it is none."""
    data = stream.read(LARGEST_MIDI + 1)
    if len(data) > LARGEST_MIDI:
        raise AudioError("This MIDI file is larger than 4 MB; a file with tempo and meter alone is enough.")
    ticks, metas = _metas(data)
    keys = [(at, parse_key(m.key.replace("m", " minor"))) for at, m in metas if m.type == "key_signature"]  # F#m
    timed = [(at, m) for at, m in metas if m.type == "time_signature" or (m.type == "set_tempo" and m.tempo > 0)]
    if not timed and not keys and not any(m.type in ("marker", "cue_marker") for _, m in metas):
        raise AudioError("This MIDI file says nothing about tempo, meter or key.")
    first, *changes = _meters(ticks, timed)
    for one in (first, *changes):
        if not 20 <= one.tempo <= 400 or not 1 <= one.beats_per_bar <= 32 or one.beat_unit not in (1, 2, 4, 8, 16):
            raise AudioError(
                f"This MIDI file says {one.tempo:g} bpm in {one.beats_per_bar}/{one.beat_unit}; 20 to 400 bpm in up to "
                "32 beats of a whole to a sixteenth can be used."
            )
    tonic, scale = (keys[0][1].tonic, keys[0][1].scale) if keys else (None, None)
    even = _quarters([first, *changes])
    return MidiTempo(
        first.tempo, first.beats_per_bar, first.beat_unit, tonic, scale, tuple(changes[:MOST_CHANGES]),
        markers=_markers(ticks, metas, even), key_changes=_key_changes(ticks, keys, even),
    )  # fmt: skip


def _quarters(meters: list[TempoChange]) -> tuple[Meter, ...]:
    """The meters at a tempo of a quarter note a second: a place in bars follows from the meters alone."""
    even = [replace(meter, tempo=_EVEN) for meter in meters]
    return tempo_map(Meter(0.0, _EVEN, even[0].beats_per_bar, even[0].beat_unit), even[1:])


def _key_changes(ticks: int, keys: list[tuple[int, Tuning]], quarters: tuple[Meter, ...]) -> tuple[KeyChange, ...]:
    """Every key after the first by bar and beat; the last of a place holds, one that changes nothing is left out."""
    found: list[KeyChange] = []
    now = keys[0][1] if keys else None
    for at, key in keys[1:]:
        if key == now:
            continue
        now = key
        place = place_of(quarters, at / ticks)
        if found and (found[-1].bar, found[-1].beat) == place:
            found.pop()
        found.append(KeyChange(*place, key.tonic, key.scale))
    return tuple(found[:MOST_KEYS])


def _markers(
    ticks: int, metas: list[tuple[int, mido.MetaMessage]], quarters: tuple[Meter, ...]
) -> tuple[Marker, ...]:  # fmt: skip
    """Markers and cue points by bar and beat."""
    found = []
    for at, message in metas:
        text = " ".join("".join(c if c.isprintable() else " " for c in getattr(message, "text", "")).split())
        if message.type in ("marker", "cue_marker") and text:
            found.append(Marker(*place_of(quarters, at / ticks), text[:LONGEST_MARKER]))
    return tuple(found[:MOST_MARKERS])


def _meters(ticks: int, timed: list[tuple[int, mido.MetaMessage]]) -> list[TempoChange]:
    """The beginning, and every change with the bar and beat it falls on or after; the last of a beat holds.

    A meter that is written inside a bar is taken to begin with the next one.
    """
    found = [TempoChange(1, round(60e6 / DEFAULT_TEMPO, 4), 4, 4)]
    bar, bar_tick = 1, 0.0  # where the bar began in which the meter changed last
    for at, message in timed:
        now = found[-1]
        beat_ticks = ticks * 4 / now.beat_unit
        beats = max(0, int((at - bar_tick) / beat_ticks + 1e-6))
        place = (bar + beats // now.beats_per_bar, beats % now.beats_per_bar + 1)
        if message.type == "set_tempo":
            change = replace(now, bar=place[0], beat=place[1], tempo=round(60e6 / message.tempo, 4))
        else:
            bars = -(-beats // now.beats_per_bar)
            bar, bar_tick = bar + bars, bar_tick + bars * now.beats_per_bar * beat_ticks
            change = TempoChange(bar, now.tempo, message.numerator, message.denominator)
        if (now.bar, now.beat) == (change.bar, change.beat):
            found.pop()
        elif (now.tempo, now.beats_per_bar, now.beat_unit) == (change.tempo, change.beats_per_bar, change.beat_unit):
            continue
        found.append(change)
    return found


def _metas(data: bytes) -> tuple[int, list[tuple[int, mido.MetaMessage]]]:
    """Ticks of a quarter note, and the meta messages of all tracks with their ticks, in order of time."""
    try:
        file = mido.MidiFile(file=BytesIO(data), clip=True)
        timed = []
        for track in file.tracks:
            at = 0
            for message in track:
                at += message.time
                if message.is_meta:
                    timed.append((at, message))
    except DAMAGED as error:
        raise AudioError("This is not a Standard MIDI file, or it is damaged.") from error
    return file.ticks_per_beat, sorted(timed, key=lambda pair: pair[0])
