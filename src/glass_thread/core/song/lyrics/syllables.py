"""Words cut into syllables.

Hyphenation patterns (F. M. Liang, "Word hy-phen-a-tion by com-put-er", 1983; the package Pyphen with its dictionaries)
say where a word is broken in print, which leaves out breaks that look ugly, as after one letter. What is left with
several vowels is cut before the consonants that begin the next of them. Chinese characters, kana and Hangul are cut by
character; a small kana, a long mark and っ belong to the character before them.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import pyphen

from .letters import BY_CHARACTER, WITH_THE_LAST, cut_by_vowels, has_vowel, onset_of

CUT = "·"  # what stands between the syllables of a word where they are typed
_LETTERS = re.compile(r"[^\W\d_]+(?:['’][^\W\d_]+)*['’]?")
_BEFORE_HYPHENED = re.compile(r"(?<=\w-)(?=\w)")
_FULLEST = {"en": "en_US"}  # whose patterns break more words than those of other countries
# Words of songs in which a written vowel is mostly not sung.
_SUNG_SHORTER = {"every": ("ev", "ery"), "evening": ("eve", "ning"), "diamond": ("dia", "mond")}
Cuts = Mapping[str, Sequence[int]]


@dataclass(frozen=True)
class Syllable:
    """A syllable with the word it is of, the number of its line, and its place among the `count` of its word; all
    numbers from 0."""

    text: str
    word: str
    line: int
    place: int
    count: int

    @property
    def onset(self) -> str:
        """How it begins as far as its letters tell, see `onset_of`."""
        return onset_of(self.text)

    @property
    def opens_word(self) -> bool:
        """Whether a word begins with it."""
        return self.place == 0


def syllables_of(lines: Sequence[str], language: str, cuts: Cuts | None = None) -> list[Syllable]:
    """The syllables of lines of words in order; see `word_syllables` for `language` and `cuts`."""
    found = []
    for number, line in enumerate(lines):
        for word in line.split():
            parts = word_syllables(word, language, cuts)
            whole = word.replace(CUT, "")
            found += [Syllable(text, whole, number, place, len(parts)) for place, text in enumerate(parts)]
    return found


def word_syllables(word: str, language: str, cuts: Cuts | None = None) -> list[str]:
    """The syllables of one word; put together they are the word as typed, without ``·``, which cuts it by hand.

    `language` is a code of ISO 639-1, such as ``en``; `cuts` names words, see `plain_word`, with how many characters
    each of their syllables has.
    """
    word = word.strip(CUT) or word
    if CUT in word.strip(CUT):
        return [part for part in word.split(CUT) if part]
    lengths = (cuts or {}).get(plain_word(word))
    found = _LETTERS.search(word)
    if lengths and found and sum(lengths) == len(found.group()):
        return _dressed(word, found, lengths)
    parts: list[str] = []
    for piece in _BEFORE_HYPHENED.split(word):
        parts += _cut(piece, language)
    return _with_bare_parts_joined(parts) or [word]


def plain_word(word: str) -> str:
    """A word without the marks around it, in small letters: what two places of the same word have in common."""
    found = _LETTERS.search(word.replace(CUT, ""))
    return (found.group() if found else word).casefold()


def _cut(piece: str, language: str) -> list[str]:
    if BY_CHARACTER.search(piece):
        return _by_character(piece)
    found = _LETTERS.search(piece)
    letters = found.group().lower() if found else ""
    if not found or len(letters) != len(found.group()):
        return [piece]
    parts = [part for run in _hyphenated(letters, language) for part in cut_by_vowels(run, language)]
    for start, shorter in _SUNG_SHORTER.items():
        if language.startswith("en") and letters.startswith(start):
            rest = letters[len(start) :]
            parts = [*shorter, *([rest] if has_vowel(rest) else [])]
            parts[-1] += "" if has_vowel(rest) else rest
    return _dressed(piece, found, [len(part) for part in _with_bare_parts_joined(parts)])


def _dressed(word: str, letters: re.Match[str], lengths: Sequence[int]) -> list[str]:
    """A word cut by the lengths of its syllables; what stands around its letters goes with the first and the last."""
    made, at = [], letters.start()
    for length in lengths:
        made.append(word[at : at + length])
        at += length
    made[0] = word[: letters.start()] + made[0]
    made[-1] += word[at:]
    return made


def _by_character(piece: str) -> list[str]:
    parts: list[str] = []
    for one in piece:
        by_itself = BY_CHARACTER.match(one) and one not in WITH_THE_LAST
        letters = not by_itself and parts and (one in WITH_THE_LAST or not BY_CHARACTER.search(parts[-1][-1]))
        if parts and (letters or not one.isalpha()):
            parts[-1] += one
        else:
            parts.append(one)
    return parts


@lru_cache(maxsize=8)
def _dictionary(language: str) -> pyphen.Pyphen | None:
    known = pyphen.language_fallback(_FULLEST.get(language, language))
    return pyphen.Pyphen(lang=known) if known else None


def _hyphenated(letters: str, language: str) -> list[str]:
    patterns = _dictionary(language)
    edges = [0, *(patterns.positions(letters) if patterns else ()), len(letters)]
    return [letters[a:b] for a, b in itertools.pairwise(edges)]


def _with_bare_parts_joined(parts: Iterable[str]) -> list[str]:
    """Parts of letters without any vowel go with the part before them, or, first of all, with the one after."""
    made: list[str] = []
    for part in parts:
        if made and not (has_vowel(part) and has_vowel(made[-1])):
            made[-1] += part
        else:
            made.append(part)
    return made
