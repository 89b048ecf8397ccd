"""Tempo, meter and key at the beginning of a Standard MIDI file."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from io import BytesIO
from typing import BinaryIO

import mido
from mido.midifiles.meta import KeySignatureError

from ..core.document.scales import parse_key
from ..core.signal.errors import AudioError

LARGEST_MIDI = 4 << 20
DEFAULT_TEMPO = 500_000  # microseconds a beat where the file names none (Standard MIDI Files 1.0)
# What the library raises over bytes that are no MIDI file.
_DAMAGED = (OSError, EOFError, ValueError, LookupError, TypeError, struct.error, KeySignatureError)


@dataclass(frozen=True)
class MidiTempo:
    """What a file says of its beginning; bar 1 is at its time 0, `changes` counts tempos and meters that follow."""

    tempo: float
    beats_per_bar: int
    beat_unit: int
    tonic: int | None
    scale: str | None
    changes: int
    bar_one_s: float = 0.0


def read_midi_tempo(stream: BinaryIO) -> MidiTempo:
    """Read a Standard MIDI file; AudioError with a sentence when it is none."""
    data = stream.read(LARGEST_MIDI + 1)
    if len(data) > LARGEST_MIDI:
        raise AudioError("This MIDI file is larger than 4 MB; a file with tempo and meter alone is enough.")
    metas = _metas(data)
    tempos = [m.tempo for m in metas if m.type == "set_tempo" and m.tempo > 0]
    meters = [(m.numerator, m.denominator) for m in metas if m.type == "time_signature"]
    keys = [m.key for m in metas if m.type == "key_signature"]
    if not tempos and not meters and not keys:
        raise AudioError("This MIDI file says nothing about tempo, meter or key.")
    numerator, denominator = meters[0] if meters else (4, 4)
    key = parse_key(keys[0].replace("m", " minor")) if keys else None  # the library spells F#m
    tempo = round(60e6 / (tempos[0] if tempos else DEFAULT_TEMPO), 4)
    if not 20 <= tempo <= 400 or not 1 <= numerator <= 32 or denominator not in (1, 2, 4, 8, 16):
        raise AudioError(
            f"This MIDI file says {tempo:g} bpm in {numerator}/{denominator}; 20 to 400 bpm in up to 32 beats of a "
            "whole to a sixteenth can be used."
        )
    later = len(set(tempos[1:])) + len(set(meters[1:]))
    return MidiTempo(tempo, numerator, denominator, key.tonic if key else None, key.scale if key else None, later)


def _metas(data: bytes) -> list[mido.MetaMessage]:
    """Meta messages of all tracks in order of time."""
    try:
        file = mido.MidiFile(file=BytesIO(data), clip=True)
        timed = []
        for track in file.tracks:
            at = 0
            for message in track:
                at += message.time
                if message.is_meta:
                    timed.append((at, message))
    except _DAMAGED as error:
        raise AudioError("This is not a Standard MIDI file, or it is damaged.") from error
    return [message for _, message in sorted(timed, key=lambda pair: pair[0])]
