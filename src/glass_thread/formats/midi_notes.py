"""The notes of a Standard MIDI file, in seconds, with their pitch bend."""

from __future__ import annotations

from bisect import bisect_right
from dataclasses import dataclass, field
from io import BytesIO
from typing import BinaryIO, NamedTuple

import mido

from ..core.signal.errors import AudioError
from .midi_tempo import DAMAGED, LARGEST_MIDI

MOST_NOTES = 20_000
_DRUMS = 9  # General MIDI's tenth channel holds no pitches

_BEND_CENTRE, _USUAL_RANGE = 8192, 2.0  # of pitch bend, where a file says nothing (MIDI 1.0)


class KeyedNote(NamedTuple):
    """A note in seconds: the key that plays it, and by how many semitones it is bent when most of it sounds."""

    start_s: float
    end_s: float
    key: int
    bend: float = 0.0


@dataclass
class _Channel:
    """What is held on a channel, since when, and how its wheel stood over time."""

    held: dict[int, float] = field(default_factory=dict)
    bends: list[tuple[float, float]] = field(default_factory=lambda: [(0.0, 0.0)])
    parameter: dict[int, int] = field(default_factory=dict)
    semitones: float = _USUAL_RANGE

    def control(self, control: int, value: int) -> None:
        """Registered parameter 0 is the range of pitch bend: semitones, then cents (MIDI 1.0)."""
        if control in (100, 101):
            self.parameter[control] = value
        elif control == 6 and self.parameter == {100: 0, 101: 0}:
            self.semitones = float(value)

    def bend_over(self, start_s: float, end_s: float) -> float:
        """The bend that holds for longest between two times."""
        after = bisect_right(self.bends, (start_s, float("inf")))
        inside = self.bends[after - 1 : bisect_right(self.bends, (end_s, float("inf")))]
        edges = [start_s, *(at for at, _ in inside[1:]), end_s]
        longest = dict[float, float]()
        for (_, bend), begin, end in zip(inside, edges, edges[1:], strict=False):
            longest[bend] = longest.get(bend, 0.0) + end - begin
        return max(longest, key=lambda bend: longest[bend])


def read_messages(stream: BinaryIO, enough: str) -> tuple[bytes, list[mido.Message]]:
    """The bytes of a MIDI file and its messages in order of time, each with the seconds since the one before.

    Raises
    ------
    AudioError
        If it is no MIDI file, a damaged one, or too large; then `enough` says what would do.
    """
    data = stream.read(LARGEST_MIDI + 1)
    if len(data) > LARGEST_MIDI:
        raise AudioError(f"This MIDI file is larger than 4 MB; a file with {enough} alone is enough.")
    try:
        return data, list(mido.MidiFile(file=BytesIO(data), clip=True))
    except DAMAGED as error:
        raise AudioError("This is not a Standard MIDI file, or it is damaged.") from error


def read_midi_notes(stream: BinaryIO) -> list[KeyedNote]:
    """Notes in order of time, with the file's tempo and its changes.

    Raises
    ------
    AudioError
        If it is no MIDI file, a damaged one, too large, or has no notes.
    """
    _data, timed = read_messages(stream, "the melody")
    found: list[KeyedNote] = []
    channels: dict[int, _Channel] = {}
    now = 0.0
    for message in timed:
        now += message.time
        if message.is_meta or getattr(message, "channel", _DRUMS) == _DRUMS:
            continue
        channel = channels.setdefault(message.channel, _Channel())
        if message.type == "control_change":
            channel.control(message.control, message.value)
        elif message.type == "pitchwheel":
            channel.bends.append((now, message.pitch / _BEND_CENTRE * channel.semitones))
        elif message.type in ("note_on", "note_off"):
            begun = channel.held.pop(message.note, None)
            if begun is not None and now > begun:
                found.append(KeyedNote(begun, now, message.note, channel.bend_over(begun, now)))
            if message.type == "note_on" and message.velocity > 0:
                channel.held[message.note] = now
    if not found:
        raise AudioError("This MIDI file has no notes.")
    return sorted(found)[:MOST_NOTES]
