"""The chords of a Standard MIDI file: markers or texts that name them, or notes that sound together."""

from __future__ import annotations

from collections.abc import Iterable
from io import BytesIO
from typing import BinaryIO, NamedTuple

import mido

from ..core.signal.errors import AudioError, ParameterError
from ..core.song.harmony.chord_names import NONE, QUALITIES, Chord, read_chord
from .midi_notes import KeyedNote, read_messages, read_midi_notes

_TOGETHER_S = 0.04  # within which notes begin together
_FEWEST = 3
_NAMED = ("marker", "text", "lyrics", "cue_marker")


class NamedChord(NamedTuple):
    """A chord from a second of the file to another, with its label (Harte et al., ISMIR 2005)."""

    start_s: float
    end_s: float
    label: str


def read_midi_chords(stream: BinaryIO) -> list[NamedChord]:
    """Chords in order of time; by name where the file names any.

    Raises
    ------
    AudioError
        If it is no MIDI file, a damaged one or too large, or holds no chords.
    """
    data, messages = read_messages(stream, "the chords")
    found = _by_name(messages) or _by_notes(data)
    if not any(one.label != NONE for one in found):
        raise AudioError("This MIDI file has no chords: neither markers that name them nor notes that sound together.")
    return found


def _by_name(messages: Iterable[mido.Message]) -> list[NamedChord]:
    now, named = 0.0, list[tuple[float, Chord]]()
    for message in messages:
        now += message.time
        if message.type in _NAMED:
            try:
                named.append((now, read_chord(str(getattr(message, "text", "")))))
            except ParameterError:
                continue  # another marker
    return _until_the_next([(at, chord) for at, chord in named], now)


def _by_notes(data: bytes) -> list[NamedChord]:
    try:
        notes = read_midi_notes(BytesIO(data))
    except AudioError:
        return []
    groups: list[list[KeyedNote]] = []
    for note in notes:
        if groups and note.start_s - groups[-1][0].start_s <= _TOGETHER_S:
            groups[-1].append(note)
        else:
            groups.append([note])
    named = [(group[0].start_s, chord) for group in groups
             if len(group) >= _FEWEST and (chord := _chord_of(group)) is not None]  # fmt: skip
    return _until_the_next(named, max(note.end_s for note in notes))


def _chord_of(notes: list[KeyedNote]) -> Chord | None:
    """The chord of some notes, on the lowest of them where they are one of several."""
    classes = frozenset(note.key % 12 for note in notes)
    bass = min(note.key for note in notes) % 12
    roots = sorted(classes, key=lambda root: root != bass)
    return next((Chord(root, quality) for root in roots for quality, (steps, _short) in QUALITIES.items()
                 if frozenset((root + step) % 12 for step in steps) == classes), None)  # fmt: skip


def _until_the_next(named: list[tuple[float, Chord]], end_s: float) -> list[NamedChord]:
    ends = [at for at, _chord in named[1:]] + [end_s]
    return [NamedChord(at, end, chord.label) for (at, chord), end in zip(named, ends, strict=len(named) > 0)
            if end > at]  # fmt: skip
