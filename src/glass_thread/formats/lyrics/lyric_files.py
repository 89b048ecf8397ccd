"""Words from a file: plain text, timed lyrics (LRC) or the lyric events of a Standard MIDI file.

LRC is a text format in open use, without a standard: ``[mm:ss.xx]`` before a line says when it begins, several of them
that it is sung again, ``<mm:ss.xx>`` inside it when a word does, and ``[offset:±ms]`` by how much all come earlier.
"""

from __future__ import annotations

import re
from io import BytesIO
from typing import NamedTuple

import mido

from ...core.signal.errors import ParameterError
from ...core.song.lyrics.syllables import CUT
from ..midi_tempo import DAMAGED

LARGEST = 4 << 20
_LINE_TIME = re.compile(r"\[(\d{1,3}):(\d{1,2}(?:[.:]\d{1,3})?)\]")
_WORD_TIME = re.compile(r"<\d{1,3}:\d{1,2}(?:[.:]\d{1,3})?>")
_OFFSET = re.compile(r"^\[offset:\s*([+-]?\d+)\s*\]", re.IGNORECASE | re.MULTILINE)
_TAG = re.compile(r"^\[[a-zA-Z#]+:.*\]$")


class SungLine(NamedTuple):
    """A line of words, and the second of the song at which it begins; None where the file does not say."""

    text: str
    start_s: float | None = None


def read_lyrics(data: bytes, bar_one_s: float) -> list[SungLine]:
    """The lines of a file, by what is in it; a MIDI file begins with bar 1, at `bar_one_s`.

    Raises
    ------
    ParameterError
        When it is too large, neither text in UTF-8 nor a MIDI file, or has no words.
    """
    if len(data) > LARGEST:
        raise ParameterError("This file is larger than 4 MB, which no words are.")
    lines = _of_midi(data, bar_one_s) if data.startswith(b"MThd") else _of_text(data)
    if not lines:
        raise ParameterError("This file has no words.")
    return lines


def _of_text(data: bytes) -> list[SungLine]:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise ParameterError("This is neither text in UTF-8 nor a MIDI file.") from error
    if "\0" in text:
        raise ParameterError("This is neither text in UTF-8 nor a MIDI file.")
    lines = [line.strip() for line in text.splitlines()]
    if not any(_LINE_TIME.match(line) for line in lines):
        return [SungLine(line) for line in lines if line]
    offset = _OFFSET.search(text)
    earlier_s = int(offset.group(1)) / 1000.0 if offset else 0.0
    found = [SungLine(words, at - earlier_s) for line in lines if not _TAG.match(line) for at, words in _timed(line)]
    return sorted((one for one in found if one.text), key=lambda one: one.start_s or 0.0)


def _timed(line: str) -> list[tuple[float, str]]:
    """The times of a line and its words."""
    times, at = list[float](), 0
    while found := _LINE_TIME.match(line, at):
        times.append(60.0 * int(found.group(1)) + float(found.group(2).replace(":", ".")))
        at = found.end()
    words = " ".join(_WORD_TIME.sub(" ", line[at:]).split())
    return [(time, words) for time in times]


def _of_midi(data: bytes, bar_one_s: float) -> list[SungLine]:
    """Lyric events; a word goes on where a syllable ends with a hyphen, a line ends with a line break or a slash."""
    try:
        messages = list(mido.MidiFile(file=BytesIO(data), clip=True, charset="utf-8"))
    except (*DAMAGED, UnicodeDecodeError) as error:
        raise ParameterError("This MIDI file is damaged, or its words are not in UTF-8.") from error
    lines: list[SungLine] = []
    now, text, start = bar_one_s, "", bar_one_s
    for message in messages:
        now += message.time
        if message.type != "lyrics":
            continue
        start = start if text else now
        text += _joined(message.text)
        if message.text.rstrip(" ").endswith(("\n", "\r", "/", "\\")):
            lines.append(SungLine(" ".join(text.split()), start))
            text = ""
    lines.append(SungLine(" ".join(text.split()), start))
    return [line for line in lines if line.text]


def _joined(event: str) -> str:
    plain = event.strip("\r\n/\\ ")
    return plain[:-1] + CUT if plain.endswith("-") and len(plain) > 1 else plain + " " if plain else " "
