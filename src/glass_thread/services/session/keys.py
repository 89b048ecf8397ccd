"""The keys and the tuning of a song, from what is stored of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, BinaryIO

from ...core.document.items.links import mark_of
from ...core.signal.errors import ParameterError
from ...core.signal.units import key_name
from ...core.signal.validation import in_range
from ...core.song.beats import MOST_BARS, Meter, moment_of
from ...core.song.keys import MOST_CHANGES, KeyMap, Temper, make_tuning
from ...core.song.spelling import key_title, tonic_name
from ...core.song.tuning import Tuning
from ...formats.plain_data import keys_to_data
from ...formats.scala import LARGEST_TEXT, MOST_NOTES, read_mapping, read_scale, text_of
from ...store.records import Song

KEY_DEFAULTS: dict[str, Any] = {
    "tonic": 0, "scale": "chromatic", "classes": [], "reference_hz": 440.0, "reference_key": 69,
    "temperament": {"name": "equal"}, "key_changes": [],
}  # fmt: skip
KEY_VALUES = tuple(KEY_DEFAULTS)
# What a new song is until somebody chooses.
SONG_DEFAULTS: dict[str, Any] = {**KEY_DEFAULTS, "tempo": 120.0, "beats_per_bar": 4, "beat_unit": 4, "bar_one_s": 0.0,
                                 "key_chosen": False, "tempo_chosen": False}  # fmt: skip
SCALA = "scala"
LONGEST_FILE, MOST_STEPS = LARGEST_TEXT, MOST_NOTES
TEMPERAMENT_WORDS = {
    "equal": "Equal temperament", "just": "Just intonation", "pythagorean": "Pythagorean",
    "meantone": "Quarter-comma meantone", SCALA: "From a Scala file",
}  # fmt: skip


@dataclass(frozen=True)
class KeyPlace:
    """A key from a moment of the song on; the first from its beginning, at bar 0."""

    start_s: float
    bar: int
    beat: float
    tuning: Tuning


def temper_of(values: Mapping[str, Any]) -> Temper:
    """How the steps of a song are laid; AudioError or ParameterError when that cannot be."""
    asked = values["temperament"]
    key, hertz = values["reference_key"], values["reference_hz"]
    return _temper(asked["name"], asked.get("scl"), asked.get("kbm"), key, hertz)


@lru_cache(maxsize=128)
def _temper(name: str, scl: str | None, kbm: str | None, reference_key: int, reference_hz: float) -> Temper:
    if name != SCALA:
        return Temper(name, reference_key=reference_key, reference_hz=reference_hz)
    if not scl:
        raise ParameterError("A tuning from a file needs the text of a Scala scale (.scl).")
    return Temper(name, read_scale(scl), read_mapping(kbm) if kbm else None, reference_key, reference_hz)


@lru_cache(maxsize=256)
def _tuning(tonic: int, scale: str, classes: tuple[int, ...], temper: Temper) -> Tuning:
    return make_tuning(tonic, scale, classes=classes, temper=temper)


def tuning_of(values: Mapping[str, Any], temper: Temper) -> Tuning:
    """The tuning of a key: a mapping with its tonic, scale and classes."""
    return _tuning(values["tonic"], values["scale"], tuple(values.get("classes") or ()), temper)


def key_places(values: Mapping[str, Any], meters: Sequence[Meter]) -> list[KeyPlace]:
    """The keys of a song in order, with where they begin in song seconds.

    Raises
    ------
    ParameterError
        Naming the change of key that is out of range or does not follow the one before it.
    """
    temper = temper_of(values)
    places = [KeyPlace(-1e9, 0, 1.0, tuning_of(values, temper))]
    if len(values["key_changes"]) > MOST_CHANGES:
        raise ParameterError(f"A song has at most {MOST_CHANGES} changes of key.")
    for change in values["key_changes"]:
        bar, beat = change["bar"], change.get("beat", 1.0)
        in_range(bar, 1, MOST_BARS, "The bar of a change of key")
        in_range(beat, 1.0, 33.0, "The beat of a change of key")
        if (bar, beat) <= (places[-1].bar, places[-1].beat):
            raise ParameterError(f"The change of key in bar {bar} must come after the one before it.")
        places.append(KeyPlace(moment_of(meters, bar, beat), bar, beat, tuning_of(change, temper)))
    return places


def key_values(song: Song) -> dict[str, Any]:
    """What is stored of the keys and the tuning of a song."""
    return {name: getattr(song, name) for name in KEY_VALUES}


def merged_values(known: Mapping[str, Any], wanted: Mapping[str, Any]) -> dict[str, Any]:
    """The values of a song with others laid over them: changes in their order, and a Scala tuning whose file is not
    given anew keeps its file."""
    merged = {**known, **{name: wanted[name] for name in KEY_VALUES if name in wanted}}
    merged["key_changes"] = sorted(merged["key_changes"], key=lambda one: (one["bar"], one.get("beat", 1.0)))
    asked = merged["temperament"]
    if asked["name"] == SCALA and not asked.get("scl"):
        given = {name: text for name, text in asked.items() if text is not None}
        merged["temperament"] = {**known["temperament"], **given}
    return merged


def key_map(places: Sequence[KeyPlace], offset_s: float) -> KeyMap:
    """The keys in the clock of a recording that begins at a moment of the song."""
    return KeyMap(tuple(one.tuning for one in places), tuple(one.start_s - offset_s for one in places[1:]))


def keys_mark(keys: KeyMap) -> str:
    """A short mark that differs where keys or tuning do."""
    return mark_of(keys_to_data(keys))


def pitches_data(places: Sequence[KeyPlace]) -> dict[str, Any]:
    """Keys with where they begin, and the pitches of each tuning once, for the screen to draw."""
    tunings = list(dict.fromkeys(place.tuning for place in places))
    return {
        "tunings": [{"steps": len(one.steps.heights), "twelve": one.steps.twelve, "lines": [line._asdict() for line in
                    one.lines]} for one in tunings],
        "keys": [{"start_s": place.start_s, "bar": place.bar, "beat": place.beat, "title": _title(place.tuning),
                  "tonic": place.tuning.tonic, "scale": place.tuning.scale, "classes": list(place.tuning.classes),
                  "tuning": tunings.index(place.tuning)} for place in places],
    }  # fmt: skip


def _title(tuning: Tuning) -> str:
    """A key in words; of a tuning that is not a keyboard's, how many steps of it."""
    if tuning.steps.twelve:
        return key_title(tuning.tonic, tuning.scale)
    count, there = len(tuning.classes), len(tuning.steps.heights)
    return f"{count} steps on {tonic_name(tuning.tonic, tuning.scale)}" + ("" if count == there else f", of {there}")


def title_of(song: Song) -> str:
    """The first key of a song in words."""
    values = key_values(song)
    return _title(tuning_of(values, temper_of(values)))


def temperament_title(song: Song) -> str:
    """What the tuning of a song is called."""
    temper = temper_of(key_values(song))
    return (temper.scala.title if temper.scala else "") or TEMPERAMENT_WORDS[temper.name]


def scale_file(stream: BinaryIO) -> tuple[str, str, bool]:
    """The text of a Scala scale file, what it holds in words, and whether that is twelve steps to the octave.

    Raises
    ------
    AudioError
        Naming the line that cannot be read.
    """
    text = text_of(stream.read(LARGEST_TEXT + 1), "scale file")
    scale = read_scale(text)
    count = len(scale.heights)
    steps = "1 step" if count == 1 else f"{count} steps"
    twelve = Temper(SCALA, scale).steps_on(0).twelve
    return text, f"{scale.title or 'Untitled'}: {steps} to {100.0 * scale.period:.1f} cents", twelve


def mapping_file(stream: BinaryIO) -> tuple[str, str]:
    """The text of a Scala keyboard mapping and what it says in words; AudioError naming the line."""
    text = text_of(stream.read(LARGEST_TEXT + 1), "keyboard mapping")
    found = read_mapping(text)
    size = f"{len(found.degrees)} keys to its octave" if found.degrees else "one key after the other"
    return text, f"{size}, {key_name(found.reference_key)} at {found.reference_hz:g} Hz"
