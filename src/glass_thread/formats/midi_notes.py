"""The notes of a Standard MIDI file, in seconds."""

from __future__ import annotations

from io import BytesIO
from typing import BinaryIO

import mido

from ..core.signal.errors import AudioError
from .midi_tempo import DAMAGED, LARGEST_MIDI

MOST_NOTES = 20_000
_DRUMS = 9  # General MIDI's tenth channel holds no pitches

Sung = tuple[float, float, float]  # start and end in seconds, MIDI pitch


def read_midi_notes(stream: BinaryIO) -> list[Sung]:
    """Notes in order of time, with the file's tempo and its changes.

    Raises
    ------
    AudioError
        If it is no MIDI file, a damaged one, too large, or has no notes.
    """
    data = stream.read(LARGEST_MIDI + 1)
    if len(data) > LARGEST_MIDI:
        raise AudioError("This MIDI file is larger than 4 MB; a file with the melody alone is enough.")
    try:
        timed = list(mido.MidiFile(file=BytesIO(data), clip=True))
    except DAMAGED as error:
        raise AudioError("This is not a Standard MIDI file, or it is damaged.") from error
    found: list[Sung] = []
    held: dict[tuple[int, int], float] = {}
    now = 0.0
    for message in timed:
        now += message.time
        if message.type not in ("note_on", "note_off") or message.channel == _DRUMS:
            continue
        key = (message.channel, message.note)
        begun = held.pop(key, None)
        if begun is not None and now > begun:
            found.append((begun, now, float(message.note)))
        if message.type == "note_on" and message.velocity > 0:
            held[key] = now
    if not found:
        raise AudioError("This MIDI file has no notes.")
    return sorted(found)[:MOST_NOTES]
