"""Songs: make, change, list, remove."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from ...core.signal.errors import ParameterError
from ...core.signal.validation import in_range
from ...core.song.beats import MOST_BARS, MOST_CHANGES, moment_of
from ...formats.midi_tempo import LONGEST_MARKER, MOST_MARKERS
from ...store.records import Song, Track
from ...store.song_log import OF_SONGS, OF_TRACKS
from ..folder.names import one_line
from ..folder.workspace import Workspace
from ..history.edit import version_of
from ..lyrics.by_hand import laid_by_hand
from ..lyrics.language import known_languages
from ..session.keys import KEY_VALUES, SONG_DEFAULTS, key_places, key_values, merged_values
from ..session.meters import meters_of
from .step_words import song_step_words, track_step_words
from .typed_chords import typed_chords

LONGEST_TITLE, LONGEST_NAME, LONGEST_WORDS, LONGEST_SINGER = 200, 120, 300, 80
_OF_KEYS = frozenset(KEY_VALUES)
TEMPO_VALUES = frozenset({"tempo", "beats_per_bar", "beat_unit", "bar_one_s", "tempo_changes"})


def create_song(workspace: Workspace, title: str, **values: Any) -> Song:
    """A new, empty song; chromatic until a key is found or chosen."""
    return workspace.songs.add(title=one_line(title, "A title", LONGEST_TITLE), **{**SONG_DEFAULTS, **values})


def change_song(workspace: Workspace, song_id: str, values: dict[str, Any], *, base: int | None = None) -> Song:
    """Change title, key, reference pitch, tempo, meter, bar 1, markers or done marks; all or nothing.

    All but done marks is one step of the song. With `base`, the turn of its log that the change was made on, what was
    changed since by others is not overwritten: that is a ConflictError.
    """
    song = workspace.songs.get(song_id)
    wanted = checked_song_values(song, values)
    logged = {name: value for name, value in wanted.items() if name in OF_SONGS}
    settings = {name: value for name, value in wanted.items() if name not in OF_SONGS}
    with workspace.database.at_once():
        if logged:
            named = {f"song.{name}": value for name, value in logged.items()}
            workspace.log.change(song_id, song_step_words(song, logged), named, base=base)
        return workspace.songs.change(song_id, settings) if settings else workspace.songs.get(song_id)


def checked_song_values(song: Song, values: dict[str, Any]) -> dict[str, Any]:
    """The values as they are stored; ParameterError naming the one that cannot be."""
    wanted = dict(values)
    if TEMPO_VALUES & wanted.keys():
        wanted["tempo_chosen"] = True
    if "title" in wanted:
        wanted["title"] = one_line(wanted["title"], "A title", LONGEST_TITLE)
    if "tempo" in wanted:
        in_range(wanted["tempo"], 20, 400, "The tempo (beats a minute)")
    if "beats_per_bar" in wanted:
        in_range(wanted["beats_per_bar"], 1, 32, "Beats in a bar")
    if wanted.get("beat_unit", 4) not in (1, 2, 4, 8, 16):
        raise ParameterError("The beat unit must be 1, 2, 4, 8 or 16.")
    if "bar_one_s" in wanted:
        in_range(wanted["bar_one_s"], -3600, 7200, "The start of bar 1 (s)")
    if TEMPO_VALUES & wanted.keys():
        if len(wanted.get("tempo_changes", ())) > MOST_CHANGES:
            raise ParameterError(f"A song has at most {MOST_CHANGES} changes of tempo.")
        meters_of(replace(song, **{name: wanted[name] for name in TEMPO_VALUES & wanted.keys()}))
    if "markers" in wanted:
        wanted["markers"] = _markers(wanted["markers"])
    if wanted.get("language", "") not in ("", *known_languages()):
        raise ParameterError("Words cannot be cut in this language.")
    if "chords" in wanted:
        wanted["chords"] = typed_chords(wanted["chords"])
    if (_OF_KEYS | TEMPO_VALUES) & wanted.keys():
        wanted = _with_keys(song, wanted)
    return wanted


def _with_keys(song: Song, wanted: dict[str, Any]) -> dict[str, Any]:
    """The values with checked keys."""
    named = {name: wanted[name] for name in TEMPO_VALUES & wanted.keys()}
    values = merged_values(key_values(song), wanted)
    places = key_places(values, meters_of(replace(song, **named)))
    found = dict(wanted)
    if "temperament" in wanted:
        found["temperament"] = values["temperament"]
    if {"tonic", "scale", "classes", "temperament"} & wanted.keys():
        found["classes"] = list(places[0].tuning.classes)
    if {"tonic", "scale", "classes"} & wanted.keys():
        found["key_chosen"] = True
    if "key_changes" in wanted:
        found["key_changes"] = [
            {"bar": place.bar, "beat": place.beat, "tonic": place.tuning.tonic, "scale": place.tuning.scale,
             "classes": list(place.tuning.classes)} for place in places[1:]
        ]  # fmt: skip
    return found


def _markers(wanted: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Checked markers in order of their places."""
    if len(wanted) > MOST_MARKERS:
        raise ParameterError(f"A song has at most {MOST_MARKERS} markers.")
    for one in wanted:
        in_range(one["bar"], 1, MOST_BARS, "The bar of a marker")
        in_range(one["beat"], 1.0, 33.0, "The beat of a marker")
        one["text"] = one_line(one["text"], "The name of a marker", LONGEST_MARKER)
    return sorted(wanted, key=lambda one: (one["bar"], one["beat"]))


def markers_of(song: Song) -> list[dict[str, Any]]:
    """The markers of a song with where they are, `at_s` in song seconds."""
    meters = meters_of(song)
    return [{**one, "at_s": moment_of(meters, one["bar"], one["beat"])} for one in song.markers]


def change_track(
    workspace: Workspace, track_id: str, values: dict[str, Any], *, base: int | None = None
) -> Track:  # fmt: skip
    """Change name, role, place on the timeline, level, mute, heard version, words or singer of a track.

    All but level, place between left and right, mute and the heard version, which are settings, is one step of the
    song; `base` is that of `change_song`.
    """
    track, values = workspace.tracks.get(track_id), checked_track_values(values)
    heard = values.get("heard_version")
    if heard is not None and version_of(workspace, track_id, heard).removed_at is not None:
        raise ParameterError("This version was removed; bring it back first.")
    logged = {name: value for name, value in values.items() if name in OF_TRACKS}
    settings = {name: value for name, value in values.items() if name not in OF_TRACKS}
    with workspace.database.at_once():
        if logged:
            named = {f"track.{track_id}.{name}": value for name, value in logged.items()}
            workspace.log.change(track.song_id, track_step_words(track, logged), named, base=base)
        return workspace.tracks.change(track_id, settings) if settings else workspace.tracks.get(track_id)


def checked_track_values(values: Mapping[str, Any]) -> dict[str, Any]:
    """The values of a track as they are stored; ParameterError naming the one that cannot be."""
    checked = dict(values)
    if "words" in values:
        checked["words"] = _words(values["words"])
    if "laid" in values:
        checked["laid"] = laid_by_hand(values["laid"]).data()
    if "name" in values:
        checked["name"] = one_line(values["name"], "A track's name", LONGEST_NAME)
    if "singer" in values:  # nobody, when it is blank
        singer = values["singer"]
        checked["singer"] = one_line(singer, "A singer's name", LONGEST_SINGER) if singer.strip() else ""
    return checked


def _words(wanted: dict[str, str]) -> dict[str, str]:
    """Words by phrase number, without empty ones."""
    if not all(number.isascii() and number.isdigit() for number in wanted):
        raise ParameterError("Words belong to phrases by their number, from 0.")
    kept = {number: " ".join(text.split()) for number, text in wanted.items()}
    return {number: one_line(text, "The words of a phrase", LONGEST_WORDS) for number, text in kept.items() if text}


def order_tracks(workspace: Workspace, song_id: str, track_ids: list[str]) -> list[Track]:
    """Put the tracks of a song into an order; every one is named once."""
    workspace.songs.get(song_id)
    if sorted(track_ids) != sorted(track.id for track in workspace.tracks.of_song(song_id)):
        raise ParameterError("An order names every track of the song once.")
    places = {f"track.{track_id}.position": position for position, track_id in enumerate(track_ids)}
    workspace.log.change(song_id, "Order of tracks", places)
    return workspace.tracks.of_song(song_id)
