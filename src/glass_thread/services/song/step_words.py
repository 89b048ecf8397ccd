"""What the steps of a song are called."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ...core.signal.units import key_name
from ...store.records import Song, Track
from ..session.keys import KEY_VALUES, temperament_title, title_of


def song_step_words(song: Song, values: Mapping[str, Any]) -> str:
    """A change of a song's values, by the first of what it is about."""
    now = replace(song, **values)
    if {"tempo", "beats_per_bar", "beat_unit", "bar_one_s", "tempo_changes"} & values.keys():
        tempo = f"Tempo · {now.tempo:g}, {now.beats_per_bar}/{now.beat_unit}"
        return f"{tempo}, {title_of(now)}" if _other_key(song, now) else tempo
    if {"tonic", "scale", "classes"} & values.keys() and _other_key(song, now):
        return f"Key · {title_of(now)}"
    if {"temperament", "reference_hz", "reference_key"} & values.keys() and _other_tuning(song, now):
        return f"Tuning · {temperament_title(now)}, {key_name(now.reference_key)} = {now.reference_hz:g} Hz"
    if "key_changes" in values and now.key_changes != song.key_changes:
        return f"Changes of key · {len(now.key_changes)}"
    if "chords" in values and now.chords != song.chords:
        return f"Chords · {len(now.chords)} typed"
    if "language" in values and now.language != song.language:
        return f"Language of the words · {now.language or 'guessed'}"
    if "markers" in values and now.markers != song.markers:
        return f"Markers · {len(now.markers)}"
    if "title" in values and now.title != song.title:
        return f"Title · “{now.title}”"
    return f"Key · {title_of(now)}" if set(KEY_VALUES) & values.keys() else "Song"


def _other_key(old: Song, new: Song) -> bool:
    return title_of(old) != title_of(new) or old.classes != new.classes


def _other_tuning(old: Song, new: Song) -> bool:
    names = ("temperament", "reference_hz", "reference_key")
    return any(getattr(old, name) != getattr(new, name) for name in names)


def track_step_words(track: Track, values: Mapping[str, Any]) -> str:
    """A change of a track's values that are part of the song's history."""
    if "words" in values:
        lines = sum(values["words"].get(n) != track.words.get(n) for n in {*values["words"], *track.words})
        return f"Words of “{track.name}” · {'1 phrase' if lines == 1 else f'{lines} phrases'}"
    if "laid" in values:
        return f"Words of “{track.name}” on its notes"
    if "offset_s" in values:
        return f"Place of “{track.name}” · {values['offset_s']:.3f} s"
    if "role" in values:
        return f"Role of “{track.name}” · {values['role']}"
    if "singer" in values:
        return f"Singer of “{track.name}” · {values['singer'] or 'nobody'}"
    return f"Name · “{values.get('name', track.name)}”"
