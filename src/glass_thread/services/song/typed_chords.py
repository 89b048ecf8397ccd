"""Chords that were typed: checked, and laid over those that are heard."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, BinaryIO

from ...core.signal.errors import ParameterError
from ...core.signal.validation import in_range
from ...core.song.beats import MOST_BARS, Meter, moment_of, place_of
from ...core.song.harmony.chord_names import Chord, read_chord
from ...formats.midi_chords import read_midi_chords
from ...store.records import Song
from ..session.meters import meters_of

MOST_CHORDS = 4_000
_LAST_BEAT = 33.0
_VALUES = ("bar", "beat", "until_bar", "until_beat", "label")


def typed_chords(wanted: Sequence[dict[str, Any]]) -> list[dict[str, Any]]:
    """Chords as they are stored, in order of their places; a later one of the list takes the place of what it covers.

    Raises
    ------
    ParameterError
        When one is no chord, or ends where it begins or before.
    """
    if len(wanted) > MOST_CHORDS:
        raise ParameterError(f"A song has at most {MOST_CHORDS} typed chords.")
    kept: list[dict[str, Any]] = []
    for one in wanted:
        made = _checked(one)
        begin, end = _span(made)
        kept = [part for other in kept for part in _left_of(other, begin, end)] + [made]
    return sorted(kept, key=_span)


def _checked(one: dict[str, Any]) -> dict[str, Any]:
    for bar in ("bar", "until_bar"):
        in_range(one[bar], 1, MOST_BARS, "The bar of a chord")
    for beat in ("beat", "until_beat"):
        in_range(one[beat], 1.0, _LAST_BEAT, "The beat of a chord")
    made = {name: one[name] for name in _VALUES} | {"label": read_chord(one["label"]).label}
    begin, end = _span(made)
    if end <= begin:
        raise ParameterError("A chord ends after it begins.")
    return made


def _span(one: dict[str, Any]) -> tuple[tuple[int, float], tuple[int, float]]:
    return (one["bar"], one["beat"]), (one["until_bar"], one["until_beat"])


def _left_of(one: dict[str, Any], begin: tuple[int, float], end: tuple[int, float]) -> list[dict[str, Any]]:
    """What is left of a chord when another one covers a stretch."""
    own_begin, own_end = _span(one)
    if own_end <= begin or end <= own_begin:
        return [one]
    before = [{**one, "until_bar": begin[0], "until_beat": begin[1]}] if own_begin < begin else []
    return before + ([{**one, "bar": end[0], "beat": end[1]}] if end < own_end else [])


def chords_of_midi(song: Song, stream: BinaryIO) -> list[dict[str, Any]]:
    """The chords of a MIDI file that begins with bar 1, by bars and beats of the song, to be looked at."""
    meters = meters_of(song)

    def place(at_s: float) -> tuple[int, float]:
        bar, beat = place_of(meters, at_s + song.bar_one_s)
        return bar, round(beat, 3)

    rows = []
    for one in read_midi_chords(stream):
        (bar, beat), (until_bar, until_beat) = place(one.start_s), place(one.end_s)
        if (until_bar, until_beat) > (bar, beat):
            rows.append({"bar": bar, "beat": beat, "until_bar": until_bar, "until_beat": until_beat,
                         "label": one.label})  # fmt: skip
    return typed_chords(rows)


def typed_spans(chords: Sequence[dict[str, Any]], meters: tuple[Meter, ...]) -> list[tuple[float, float, Chord]]:
    """From when to when each typed chord holds, in song seconds."""
    return [(moment_of(meters, one["bar"], one["beat"]), moment_of(meters, one["until_bar"], one["until_beat"]),
             read_chord(one["label"])) for one in chords]  # fmt: skip
