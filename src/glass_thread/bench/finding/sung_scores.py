"""Melodies made here and sung by the package pysinsy, whose score times are known: Japanese, a mora a note or held on.

Its voice is NIT SONG070 F001 (Nagoya Institute of Technology, CC BY 3.0); it does not sing below D4.
"""

from __future__ import annotations

import importlib
import tempfile
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import soxr

from ...core.signal.types import Floats
from ...core.signal.units import class_name

RATE = 48_000
_LOWEST, _HIGHEST = 62, 77
_MORAE = (*"かさたなはまらいあえおきみにりくすゆるめねれとものこよろてけ", "しゃ", "きょ", "し", "つ", "ち")
_HELD = "ー"
_PHRASES, _HELD_SHARE = 6, 0.18
_BAR = 16  # sixteenths


@dataclass(frozen=True)
class SungScore:
    """Lines of words, and for each syllable of them in order its start and end in seconds, held notes included."""

    lines: tuple[str, ...]
    spans_s: tuple[tuple[float, float], ...]
    audio: Floats


_Row = tuple[int, int | None, str]  # sixteenths, MIDI number or a rest, and what is sung


def sung_score(seed: int) -> SungScore | None:
    """A melody of six phrases and its sound, shape (n,), at `RATE`; None where the package fails to sing it."""
    rng = np.random.default_rng(seed)
    tempo = float(rng.choice([84, 92, 108]))
    rows = _melody(rng)
    audio = _sound(_score(rows, tempo))
    lines, spans, at = list[str](), list[tuple[float, float]](), 60.0 / tempo * _BAR / 4
    rested = True
    for sixteenths, midi, mora in rows:
        end = at + sixteenths * 15.0 / tempo
        if midi is not None and mora == _HELD:
            spans[-1] = (spans[-1][0], end)
        elif midi is not None:
            lines = [*lines, mora] if rested else [*lines[:-1], lines[-1] + mora]
            spans.append((at, end))
        rested, at = midi is None, end
    return None if np.count_nonzero(np.abs(audio) > 0.01) < RATE else SungScore(tuple(lines), tuple(spans), audio)


def _melody(rng: np.random.Generator) -> list[_Row]:
    rows: list[_Row] = []
    midi = _LOWEST + int(rng.integers(4, 10))
    for _phrase in range(_PHRASES):
        count = int(rng.integers(4, 9))
        for place in range(count):
            last, held = place == count - 1, place > 0 and rng.random() < _HELD_SHARE
            step = int(rng.choice([-2, 2] if held else [-4, -2, -2, -1, 0, 0, 0, 1, 2, 2, 3, 5]))
            midi = int(np.clip(midi + step, _LOWEST, _HIGHEST))
            length = int(rng.choice([6, 8] if last else [2, 2, 2, 3, 4, 4, 6]))
            rows.append((length, midi, _HELD if held else str(rng.choice(_MORAE))))
        rows.append((int(rng.choice([2, 4, 4])), None, ""))
    return rows


def _score(rows: list[_Row], tempo: float) -> str:
    """MusicXML in 4/4 with a bar's rest before and after; notes over a bar line are tied."""
    bars: list[list[str]] = [[]]
    room = _BAR
    for length, midi, mora in [(_BAR, None, ""), *rows, (_BAR, None, "")]:
        left = length
        while left:
            part = min(left, room)
            bars[-1].append(_note(part, midi, mora, tied=(left < length, left > part)))
            left, room = left - part, room - part
            if room == 0:
                bars.append([])
                room = _BAR
    bars[-1].append(_note(room, None, "", tied=(False, False)) if room < _BAR else "")
    head = ("<attributes><divisions>4</divisions><key><fifths>0</fifths></key><time><beats>4</beats><beat-type>4"
            "</beat-type></time><clef><sign>G</sign><line>2</line></clef></attributes>"
            f'<direction><sound tempo="{tempo:g}"/></direction>')  # fmt: skip
    measures = "".join(f'<measure number="{n}">{head if n == 1 else ""}{"".join(notes)}</measure>'
                       for n, notes in enumerate(bars, 1) if notes)  # fmt: skip
    part = '<part-list><score-part id="P1"><part-name>v</part-name></score-part></part-list>'
    return (f'<?xml version="1.0" encoding="UTF-8"?><score-partwise version="2.0">{part}'
            f'<part id="P1">{measures}</part></score-partwise>')  # fmt: skip


def _note(length: int, midi: int | None, mora: str, *, tied: tuple[bool, bool]) -> str:
    if midi is None:
        return f"<note><rest/><duration>{length}</duration><voice>1</voice></note>"
    name = class_name(midi % 12)
    alter = "<alter>1</alter>" if name.endswith("♯") else ""
    ties = "".join(f'<tie type="{kind}"/>' for kind, on in zip(("stop", "start"), tied, strict=True) if on)
    lyric = "" if tied[0] else f"<lyric><text>{mora}</text></lyric>"
    return (f"<note><pitch><step>{name[0]}</step>{alter}<octave>{midi // 12 - 1}</octave></pitch>"
            f"<duration>{length}</duration>{ties}<voice>1</voice>{lyric}</note>")  # fmt: skip


def _sound(score: str) -> Floats:
    with warnings.catch_warnings(), tempfile.TemporaryDirectory() as folder:
        warnings.simplefilter("ignore")  # it asks setuptools for its own files
        pysinsy: Any = importlib.import_module("pysinsy")
        path = Path(folder) / "score.xml"
        path.write_text(score, encoding="utf-8")
        samples, rate = pysinsy.synthesize(str(path))
    loud = np.asarray(samples, dtype=float)
    return soxr.resample(0.7 * loud / max(1e-9, float(np.abs(loud).max())), rate, RATE)
