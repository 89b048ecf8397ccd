"""Kinds of values that edit operations carry: how each is checked, and its JSON schema.

A field of an operation is declared with one of the functions here; the check, the schema of the API, the types of the
screen and the help of the command line all follow from it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import MISSING, dataclass, field
from typing import Any

from ...signal.errors import ParameterError

LONGEST_TEXT, MOST_IDS, LONGEST_ID, MOST_POINTS = 200, 50_000, 64, 20_000
_SHOWN = 40  # characters of a refused value that a message repeats


@dataclass(frozen=True)
class Kind:
    """A check that returns the value as the rules take it, or raises; the schema; and an example."""

    check: Callable[[str, object], Any]
    schema: Mapping[str, Any]
    example: Any


def _declared(kind: Kind, default: Any) -> Any:
    return field(default=default, metadata={"kind": kind})


def refuse(name: str, wanted: str, got: object, *, words: str = "") -> ParameterError:
    """The sentence for a value that a field does not take; `words` are what people call the field."""
    field_name = f"“{printable(name)}”"
    if words:
        return ParameterError(f"{words} must be {wanted}; got {_shown(got)} (field {field_name}).")
    return ParameterError(f"{field_name} must be {wanted}; got {_shown(got)}.")


def printable(text: str) -> str:
    """A text from outside as far as a message repeats it."""
    return (text if len(text) <= _SHOWN else text[: _SHOWN - 1] + "…").encode("utf-8", "replace").decode()


def _shown(got: object) -> str:
    try:
        return printable(repr(got))
    except (ValueError, RecursionError):  # a number of thousands of digits, or lists in lists without end
        return "something too large to show"


def _plain(number: float) -> str:
    return f"{number:g}".replace("-", "−")


def number_kind(low: float, high: float, words: str, *, unit: str = "", whole: bool = False, none: str = "") -> Kind:
    """A finite number between two limits; where `none` says what that means, also nothing (null)."""
    what = "a whole number" if whole else "a number"
    wanted = f"{what} from {_plain(low)} to {_plain(high)}{' ' + unit if unit else ''}"
    wanted += f", or null for {none}" if none else ""

    def check(name: str, value: object) -> float | None:
        if none and value is None:
            return None
        called = words if "." in name else ""  # a value of a note or of air, which the screen shows by these words
        if isinstance(value, bool) or not isinstance(value, int if whole else (int, float)):
            raise refuse(name, wanted, value, words=called)
        if not low <= value <= high:  # also refuses NaN, and numbers no float can hold
            raise refuse(name, wanted, value, words=called)
        return int(value) if whole else float(value)

    kind = "integer" if whole else "number"
    schema: dict[str, Any] = {"type": [kind, "null"] if none else kind, "minimum": low, "maximum": high}
    schema["description"] = f"{words}; null is {none}" if none else words
    if unit:
        schema["description"] = f"{words}, in {unit}"
    example = 0 if low <= 0 <= high else low
    return Kind(check, schema, int(example) if whole else float(example))


def number(low: float, high: float, words: str, *, unit: str = "", default: Any = MISSING) -> Any:
    """A field for a finite number."""
    return _declared(number_kind(low, high, words, unit=unit), default)


def whole(low: int, high: int, words: str, *, default: Any = MISSING) -> Any:
    """A field for a whole number."""
    return _declared(number_kind(low, high, words, whole=True), default)


def choice_kind(options: Sequence[str], words: str) -> Kind:
    """One of a few words."""

    def check(name: str, value: object) -> str:
        if not isinstance(value, str) or value not in options:
            raise refuse(name, f"one of: {', '.join(options)}", value)
        return value

    return Kind(check, {"type": "string", "enum": list(options), "description": words}, options[0])


def choice(options: Sequence[str], words: str, *, default: Any = MISSING) -> Any:
    """A field for one of a few words."""
    return _declared(choice_kind(options, words), default)


def choices(options: Sequence[str], words: str, *, default: Any = MISSING) -> Any:
    """A field for several of a few words."""
    one = choice_kind(options, words)

    def check(name: str, value: object) -> tuple[str, ...]:
        if not isinstance(value, (list, tuple)) or not 0 < len(value) <= len(options):
            raise refuse(name, f"a list of some of: {', '.join(options)}", value)
        return tuple(one.check(name, word) for word in value)

    item = {"type": "string", "enum": list(options)}
    schema = {"type": "array", "items": item, "minItems": 1, "maxItems": len(options), "description": words}
    return _declared(Kind(check, schema, [options[0]]), default)


def _check_switch(name: str, value: object) -> bool:
    if not isinstance(value, bool):
        raise refuse(name, "true or false", value)
    return value


def switch_kind(words: str) -> Kind:
    """True or false."""
    return Kind(_check_switch, {"type": "boolean", "description": words}, True)


def switch(words: str, *, default: Any = MISSING) -> Any:
    """A field for true or false."""
    return _declared(switch_kind(words), default)


def text_kind(words: str, example: str) -> Kind:
    """A short text."""

    def check(name: str, value: object) -> str:
        if not isinstance(value, str) or not 0 < len(value) <= LONGEST_TEXT:
            raise refuse(name, f"text of 1 to {LONGEST_TEXT} characters", value)
        return value

    schema = {"type": "string", "minLength": 1, "maxLength": LONGEST_TEXT, "description": words}
    return Kind(check, schema, example)


def texts(words: str, how_many: int, example: Sequence[str]) -> Any:
    """A field for some short texts."""
    one = text_kind(words, example[0])

    def check(name: str, value: object) -> tuple[str, ...]:
        if not isinstance(value, (list, tuple)) or len(value) != how_many:
            raise refuse(name, f"a list of {how_many} texts", value)
        return tuple(one.check(name, text) for text in value)

    item = {key: value for key, value in one.schema.items() if key != "description"}
    schema = {"type": "array", "items": item, "minItems": how_many, "maxItems": how_many, "description": words}
    return _declared(Kind(check, schema, list(example)), MISSING)


def _check_id(name: str, value: object) -> str:
    if not isinstance(value, str) or not 0 < len(value) <= LONGEST_ID:
        raise refuse(name, "an id", value)
    return value


def one_id(words: str, example: str, *, default: Any = MISSING) -> Any:
    """A field for the id of a note, an air event or a track."""
    schema = {"type": "string", "minLength": 1, "maxLength": LONGEST_ID, "description": words}
    return _declared(Kind(_check_id, schema, example), default)


def ids(words: str, example: str, *, default: Any = MISSING) -> Any:
    """A field for a list of ids."""

    def check(name: str, value: object) -> tuple[str, ...]:
        if not isinstance(value, (list, tuple)) or len(value) > MOST_IDS:
            raise refuse(name, f"a list of at most {MOST_IDS} ids", value)
        return tuple(_check_id(name, one) for one in value)

    item = {"type": "string", "minLength": 1, "maxLength": LONGEST_ID}
    schema = {"type": "array", "items": item, "maxItems": MOST_IDS, "description": words}
    return _declared(Kind(check, schema, [example]), default)


def values(kinds: Mapping[str, Kind], words: str, example: Mapping[str, Any]) -> Any:
    """A field for an object whose members are all optional."""

    def check(name: str, value: object) -> dict[str, Any]:
        if not isinstance(value, Mapping):
            raise refuse(name, "an object", value)
        unknown = [key for key in value if key not in kinds]
        if unknown:
            takes = ", ".join(kinds)
            raise ParameterError(f"“{name}” has no value “{printable(str(unknown[0]))}”; it takes: {takes}.")
        return {key: kinds[key].check(f"{name}.{key}", one) for key, one in value.items()}

    schema = {"type": "object", "properties": {key: dict(kind.schema) for key, kind in kinds.items()},
              "additionalProperties": False, "minProperties": 1, "description": words}  # fmt: skip
    return _declared(Kind(check, schema, dict(example)), MISSING)


def points(words: str) -> Any:
    """A field for a line of (seconds, MIDI pitch) points."""
    return _pairs(words, "points of a time in seconds and a MIDI pitch", 2, [[1.0, 60.0], [1.4, 60.5]], MISSING)


def moments(words: str) -> Any:
    """A field for pairs of moments in seconds; none when left out."""
    return _pairs(words, "pairs of moments in seconds", 0, [[1.0, 1.2]], ())


def melody(words: str, *, default: Any = MISSING) -> Any:
    """A field for notes of a start and an end in seconds and a MIDI pitch; none when a default says so."""
    what, least = "notes of a start and an end in seconds and a MIDI pitch", 1 if default is MISSING else 0
    return _rows(words, what, 3, least, [[1.0, 1.5, 62.0]], default)


def chord_notes(words: str, *, default: Any = MISSING) -> Any:
    """A field for notes of chords: a start and an end in seconds and a pitch class from C on, the root first."""
    what, least = "notes of chords: start and end in seconds, pitch class", 1 if default is MISSING else 0
    return _rows(words, what, 3, least, [[1.0, 2.0, 2.0], [1.0, 2.0, 5.0], [1.0, 2.0, 9.0]], default)


def _pairs(words: str, what: str, least: int, example: Any, default: Any) -> Any:
    return _rows(words, what, 2, least, example, default)


def _rows(words: str, what: str, width: int, least: int, example: Any, default: Any) -> Any:
    wanted = f"{least} to {MOST_POINTS} {what}"

    def check(name: str, value: object) -> tuple[tuple[float, ...], ...]:
        if not isinstance(value, (list, tuple)) or not least <= len(value) <= MOST_POINTS:
            raise refuse(name, wanted, value)
        return tuple(_check_row(name, wanted, one, width) for one in value)

    row = {"type": "array", "items": {"type": "number"}, "minItems": width, "maxItems": width}
    schema = {"type": "array", "items": row, "minItems": least, "maxItems": MOST_POINTS, "description": words}
    return _declared(Kind(check, schema, example), default)


def _check_row(name: str, wanted: str, value: object, width: int) -> tuple[float, ...]:
    if not isinstance(value, (list, tuple)) or len(value) != width:
        raise refuse(name, wanted, value)
    for one in value:
        if isinstance(one, bool) or not isinstance(one, (int, float)) or not abs(one) < 1e9 or not math.isfinite(one):
            raise refuse(name, wanted, value)
    return tuple(float(one) for one in value)
