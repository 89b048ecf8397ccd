"""Scala scale files (.scl) and keyboard mappings (.kbm).

After the file format descriptions of the Scala archive (huygens-fokker.org, "Scala scale file format" and "Help for
mappings"), from memory: lines that begin with an exclamation mark are comments; a pitch with a point is in cents, any
other a ratio or a whole number; what follows it on its line is ignored; 1/1 is not written.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from fractions import Fraction

from ..core.signal.errors import AudioError
from ..core.signal.units import ratio_to_semitones
from ..core.song.scala_steps import KeyboardMap, ScalaScale

LARGEST_TEXT = 256 << 10
MOST_NOTES, LONGEST_TITLE = 2048, 200
_MOST_CENTS = 1e5
_PITCH = re.compile(r"[-+]?\d+/\d+|[-+]?\d*\.\d*|[-+]?\d+")

Lines = Iterator[tuple[int, str]]  # numbers from 1, without comments


def text_of(data: bytes, what: str) -> str:
    """The text of a file; AudioError when it is larger than such a file can be, or none of text."""
    if len(data) > LARGEST_TEXT:
        raise AudioError(f"This {what} is larger than {LARGEST_TEXT >> 10} kB.")
    if b"\0" in data:
        raise AudioError(f"This is not a {what}: it is not a text.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def read_scale(text: str) -> ScalaScale:
    """The scale of an .scl file.

    Raises
    ------
    AudioError
        With a sentence that names the line that cannot be read.
    """
    lines = _lines(text)
    _, title = _next(lines, "scale file", "its description")
    count = _whole(_next(lines, "scale file", "the number of its notes"), "the number of notes", 1, MOST_NOTES)
    heights = []
    for i in range(count):
        heights.append(_semitones(*_next(lines, "scale file", f"note {i + 1} of {count}")))
        last = i + 1
    if heights[-1] <= 0.0:
        raise AudioError(f"This scale file cannot be used: its last note, number {last}, must lie above 1/1.")
    shown = "".join(c if c.isprintable() else " " for c in title)
    return ScalaScale(" ".join(shown.split())[:LONGEST_TITLE], tuple(heights))


def read_mapping(text: str) -> KeyboardMap:
    """The mapping of a .kbm file; its first and last key to be retuned are read and not used.

    Raises
    ------
    AudioError
        With a sentence that names the line that cannot be read.
    """
    what, lines = "keyboard mapping", _lines(text)
    size = _whole(_next(lines, what, "the size of its map"), "the size of the map", 0, 128)
    first, last = (_whole(_next(lines, what, f"its {name} key"), f"the {name} key", 0, 127)
                   for name in ("first", "last"))  # fmt: skip
    if last < first:
        raise AudioError(f"This keyboard mapping cannot be used: its last key, {last}, lies before its first, {first}.")
    middle = _whole(_next(lines, what, "its middle key"), "the middle key", 0, 127)
    reference = _whole(_next(lines, what, "its reference key"), "the reference key", 0, 127)
    hertz = _hertz(*_next(lines, what, "the reference frequency"))
    octave = _whole(_next(lines, what, "the degree of its octave"), "the degree of the octave", 0, MOST_NOTES)
    degrees: list[int | None] = []
    for line in lines:
        if len(degrees) < size:
            degrees.append(None if _word(line[1]).lower() == "x" else _whole(line, "a degree", 0, MOST_NOTES))
    if size and not octave:
        raise AudioError("This keyboard mapping cannot be used: the degree of its octave is 0.")
    return KeyboardMap(middle, reference, hertz, octave, (*degrees, *[None] * (size - len(degrees))))


def _lines(text: str) -> Lines:
    return ((number, line) for number, line in enumerate(text.splitlines(), 1) if not line.startswith("!"))


def _next(lines: Lines, what: str, wanted: str) -> tuple[int, str]:
    found = next(lines, None)
    if found is None:
        raise AudioError(f"This {what} ends before {wanted}.")
    return found


def _word(line: str) -> str:
    return (line.split() or [""])[0]


def _shown(line: str) -> str:
    return "".join(c for c in line.strip()[:40] if c.isprintable())


def _whole(line: tuple[int, str], what: str, lowest: int, highest: int) -> int:
    number, text = line
    word = _word(text)
    if not (word.isascii() and word.isdigit() and len(word) < 10 and lowest <= int(word) <= highest):
        raise AudioError(f"Line {number}, “{_shown(text)}”: {what} must be a whole number from {lowest} to {highest}.")
    return int(word)


def _semitones(number: int, text: str) -> float:
    """The pitch on a line above 1/1."""
    match = _PITCH.fullmatch(_word(text))
    if match is None or not any(c.isdigit() for c in match[0]):
        raise AudioError(f"Line {number}, “{_shown(text)}”: a pitch is a ratio such as 3/2, or cents such as 701.955.")
    word = match[0]
    if "." in word:
        cents = float(word)
        if abs(cents) > _MOST_CENTS:
            raise AudioError(f"Line {number}, “{_shown(text)}”: that is too far from 1/1.")
        return cents / 100.0
    above, _, below = word.partition("/")
    if not below:
        below = "1"
    if max(len(above), len(below)) > 20 or int(above) <= 0 or int(below) <= 0:
        raise AudioError(f"Line {number}, “{_shown(text)}”: a ratio is of two whole numbers above 0.")
    return ratio_to_semitones(float(Fraction(int(above), int(below))))


def _hertz(number: int, text: str) -> float:
    try:
        hertz = float(_word(text))
    except ValueError:
        hertz = math.nan
    if not 1.0 <= hertz <= 20_000.0:
        raise AudioError(f"Line {number}, “{_shown(text)}”: the reference frequency must be from 1 to 20000 Hz.")
    return hertz
