"""Tempo, meter and keys of a stored song, as the core takes them."""

from __future__ import annotations

from ...core.song.beats import Meter, TempoChange, tempo_map
from ...core.song.keys import KeyMap
from ...store.records import Song
from .keys import KeyPlace, key_map, key_places, key_values


def keys_of(song: Song) -> list[KeyPlace]:
    """The keys of a song in order, with where they begin."""
    return key_places(key_values(song), meters_of(song))


def keys_under(song: Song, offset_s: float) -> KeyMap:
    """What the notes of a track round to, in the clock of its recording, which begins at a moment of the song."""
    return key_map(keys_of(song), offset_s)


def meters_of(song: Song) -> tuple[Meter, ...]:
    """Tempo and meter of a song, in its clock, with all changes; ParameterError when they do not follow each other."""
    first = Meter(song.bar_one_s, song.tempo, song.beats_per_bar, song.beat_unit)
    return tempo_map(first, [TempoChange(**change) for change in song.tempo_changes])
