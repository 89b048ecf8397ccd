"""How letters sound as far as they tell: vowels that are sung by themselves, and how a syllable begins."""

from __future__ import annotations

import itertools
import re
import unicodedata

# Chinese characters, kana and Hangul: each is a syllable, but for the kana that go with the one before.
BY_CHARACTER = re.compile("[\u3040-\u30ff\u31f0-\u31ff\u3400-\u9fff\uac00-\ud7af\uff66-\uff9f々]")
WITH_THE_LAST = frozenset("ぁぃぅぇぉゃゅょゎっァィゥェォャュョヮッー゛゜")
MARKS = "\"'“”‘’«»„(¿¡-–—"  # that stand before a word
_VOWELS = frozenset("aeiouyıæøœəаеёиоуыэюяієїαεηιουω")
# Consonants that begin a syllable together; the package has patterns, this is for what they leave.
_ONSETS = frozenset([
    *"bcdfghjklmnpqrstvwxz", "bl", "br", "ch", "cl", "cr", "dr", "fl", "fr", "gl", "gr", "kl", "kn", "kr", "ph", "pl",
    "pr", "qu", "sc", "sch", "scr", "sh", "sk", "sl", "sm", "sn", "sp", "spl", "spr", "squ", "st", "str", "sw", "th",
    "thr", "tr", "tw", "wh", "wr",
])  # fmt: skip
_PAIRS_APART = frozenset(["ia", "io", "iu", "ua", "uo", "ya", "yo", "yi"])  # that are mostly sung one after the other
# English words in which two vowels are sung apart that elsewhere are one: the second stands where the match ends.
_APART_IN = re.compile(r"ide(?=a)|are(?=a)|cre(?=at)|po(?=e[mt])|the(?=[oa]r|at)|qui(?=et)|di(?=et)|vide(?=o)|ne(?=on)"
                       r"|be(?=ing)|see(?=ing)")  # fmt: skip
# First letters that tell how a syllable begins: without pitch, or sung from the first.
_HARD = frozenset(
    [*"cfkpqstxчшщскптфхц", *"かきくけこさしすせそたちつてとぱぴぷぺぽカキクケコサシスセソタチツテトパピプペポ"]
)
_OPEN = frozenset([
    *"aeiouymnlrwаеиоуыэюямнлр", *"あいうえおなにぬねのまみむめもやゆよらりるれろわをん",
    *"アイウエオナニヌネノマミムメモヤユヨラリルレロワヲン", "kn",
])  # fmt: skip
_EITHER = frozenset({"th"})


def onset_of(text: str) -> str:
    """``hard`` when a text begins with a consonant that has no pitch, ``open`` with a vowel or a consonant that is
    sung, else ``""``."""
    letters = text.casefold().lstrip(MARKS)
    for first in (letters[:2], letters[:1], bare(letters[:1] or " ")):
        if first in _EITHER:
            return ""
        if first in _HARD or first in _OPEN:
            return "hard" if first in _HARD else "open"
    return ""


def bare(letter: str) -> str:
    """A letter without its accents; kana keep theirs, which say how they sound."""
    return letter if BY_CHARACTER.match(letter) else unicodedata.normalize("NFD", letter)[0]


def has_vowel(text: str) -> bool:
    """Whether a text can be sung by itself."""
    return any(bare(one) in _VOWELS or BY_CHARACTER.match(one) for one in text.casefold())


def cut_by_vowels(letters: str, language: str) -> list[str]:
    """A run of small letters cut before the consonants that lead to its second vowel, third and so on."""
    cores = _cores(letters, language)
    edges = [0]
    for (_a, stop), (start, _b) in itertools.pairwise(cores):
        between = letters[stop:start]
        edges.append(stop + next(n for n in range(len(between) + 1) if n == len(between) or between[n:] in _ONSETS))
    edges.append(len(letters))
    return [letters[a:b] for a, b in itertools.pairwise(edges)]


def _cores(letters: str, language: str) -> list[tuple[int, int]]:
    """Start and end of every vowel that is sung by itself; two beside each other are one where they are one sound."""
    cores: list[tuple[int, int]] = []
    for at in range(len(letters)):
        if not _is_vowel(letters, at, language):
            continue
        if cores and cores[-1][1] == at and not _apart(letters, at, language):
            cores[-1] = (cores[-1][0], at + 1)
        else:
            cores.append((at, at + 1))
    if language.startswith("en") and len(cores) > 1 and _is_silent_end(letters, cores[-1]):
        cores.pop()
    return cores or [(0, len(letters))]


def _is_vowel(letters: str, at: int, language: str) -> bool:
    letter = bare(letters[at])
    if letter not in _VOWELS or (letter == "u" and letters[at - 1 : at] == "q"):
        return False
    if letter != "y" or not language.startswith("en"):
        return True
    return at > 0 and (at + 1 == len(letters) or bare(letters[at + 1]) not in _VOWELS)


def _apart(letters: str, at: int, language: str) -> bool:
    """Whether a vowel is sung apart from the one before it: written with two dots, or of a pair that mostly is."""
    if letters[at] in "ïëü":
        return True
    english = language.startswith("en")
    if english and any(one.end() == at for one in _APART_IN.finditer(letters)):
        return True
    pair, before = bare(letters[at - 1]) + bare(letters[at]), letters[max(0, at - 2) : at - 1]
    if pair == "io" and letters[at + 1 : at + 2] == "n" and before in {*"tscg", *("ln" if english else "")}:
        return False  # nation, million
    softened = pair in {"ia", "io"} and before in {"c", "t", "g"}  # special, religious
    return pair in _PAIRS_APART and not softened and not (pair in {"ua", "uo"} and before in {"g", "q"})


def _is_silent_end(letters: str, last: tuple[int, int]) -> bool:
    """Whether the last written vowel of an English word is not sung: shore, waves and loved, but little and roses."""
    start, stop = last
    if letters[start:stop] != "e" or start == 0:
        return False
    rest, before = letters[stop:], letters[start - 1]
    if rest == "":
        return not (before == "l" and start > 1 and bare(letters[start - 2]) not in _VOWELS)
    if rest == "s":
        return before not in "szxcg" and letters[max(0, start - 2) : start] not in {"sh", "ch"}
    return rest == "d" and before not in "td"
