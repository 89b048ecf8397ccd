"""What was said of a track's words by hand: where syllables begin, which notes are held on, how words are cut.

It is kept by moments of the recording, not by names of notes, so that it stays when notes are cut again, and by the
text of a syllable, so that it stays when the words around it are typed anew:
``{"hands": [{"at_s", "phrase", "place", "text"} | {"at_s"}], "cuts": {word: [characters of each syllable]}}``.
"""

from __future__ import annotations

import itertools
from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ...core.signal.errors import ParameterError
from ...core.signal.types import Note
from ...core.song.lyrics.laying import ByHand
from ...core.song.lyrics.syllables import Syllable, plain_word

MOST_HANDS, MOST_CUTS, MOST_PARTS = 20_000, 2_000, 20
_LONGEST_TEXT = 300
_BEFORE_S, _NEAR_S = 0.06, 0.15  # how far a moment may lie before a note, and outside of all of them


@dataclass(frozen=True)
class Hand:
    """At a note that begins near `at_s`: the syllable number `place` of a phrase begins, or, without `text`, the one
    before is held on."""

    at_s: float
    phrase: int = 0
    place: int = 0
    text: str | None = None


@dataclass(frozen=True)
class LaidByHand:
    """All that was said of a track's words by hand."""

    hands: tuple[Hand, ...] = ()
    cuts: Mapping[str, tuple[int, ...]] = field(default_factory=dict)

    def data(self) -> dict[str, Any]:
        """As it is stored; nothing at all when nothing was said."""
        hands = [{"at_s": one.at_s} if one.text is None else vars(one).copy() for one in self.hands]
        cuts = {word: list(lengths) for word, lengths in sorted(self.cuts.items())}
        return {**({"hands": hands} if hands else {}), **({"cuts": cuts} if cuts else {})}

    def without(self, note: Note) -> LaidByHand:
        """What is left when what was said at a note is forgotten."""
        return replace(self, hands=tuple(one for one in self.hands if not _at(one, note)))

    def with_hand(self, hand: Hand, note: Note) -> LaidByHand:
        """With something said at a note; what was said of the same syllable elsewhere is forgotten."""
        same = [one for one in self.hands if hand.text is not None and one.text is not None
                and (one.phrase, one.place) == (hand.phrase, hand.place)]  # fmt: skip
        left = [one for one in self.without(note).hands if one not in same]
        return replace(self, hands=tuple(sorted((*left, hand), key=lambda one: one.at_s)))

    def with_cut(self, word: str, parts: Sequence[str]) -> LaidByHand:
        """With a word cut into parts wherever it is sung; as by rule without parts."""
        plain, cuts = plain_word(word), dict(self.cuts)
        cuts.pop(plain, None)
        if parts:
            if "".join(parts).casefold() != plain or not all(parts):
                raise ParameterError(f"The syllables put together are not the word “{word[:60]}”.")
            cuts[plain] = tuple(len(part) for part in parts)
        return replace(self, cuts=cuts)


def laid_by_hand(data: Mapping[str, Any]) -> LaidByHand:
    """What was stored.

    Raises
    ------
    ParameterError
        When it is nothing that this program stores.
    """
    try:
        hands = tuple(Hand(**one) for one in data.get("hands", ()))
        cuts = {word: tuple(lengths) for word, lengths in data.get("cuts", {}).items()}
        fits = (
            set(data) <= {"hands", "cuts"} and len(hands) <= MOST_HANDS and len(cuts) <= MOST_CUTS
            and all(_is_fit(one) for one in hands) and list(hands) == sorted(hands, key=lambda one: one.at_s)
            and all(plain_word(word) == word and _fit_lengths(word, lengths) for word, lengths in cuts.items())
        )  # fmt: skip
    except (TypeError, AttributeError, ValueError):
        fits = False
    if not fits:
        raise ParameterError("What was laid of the words by hand is not as it is stored.")
    return LaidByHand(hands, cuts)


def _is_fit(hand: Hand) -> bool:
    if not all(isinstance(n, int) and 0 <= n < 100_000 for n in (hand.phrase, hand.place)):
        return False
    timed = isinstance(hand.at_s, float | int) and 0.0 <= hand.at_s < 1e6
    return timed and (hand.text is None or (isinstance(hand.text, str) and 0 < len(hand.text) <= _LONGEST_TEXT))


def _fit_lengths(word: str, lengths: tuple[int, ...]) -> bool:
    return (0 < len(lengths) <= MOST_PARTS and all(isinstance(n, int) and n > 0 for n in lengths)
            and sum(lengths) == len(word))  # fmt: skip


def _at(hand: Hand, note: Note) -> bool:
    return note.start_s - _BEFORE_S <= hand.at_s < max(note.end_s, note.start_s + _NEAR_S) - _BEFORE_S


def in_phrase(laid: LaidByHand, phrase: int, syllables: Sequence[Syllable], notes: Sequence[Note]) -> ByHand:
    """What was said by hand of a phrase, for its syllables and notes as they are now.

    A syllable is known again by its text, the one nearest to its place; one that is not there any more is passed over,
    as is what would cross what was said of an earlier note.
    """
    begins: dict[int, int] = {}
    held = set[int]()
    first = bisect_left(laid.hands, notes[0].start_s - _BEFORE_S, key=lambda hand: hand.at_s)
    for hand in itertools.takewhile(lambda one: one.at_s < notes[-1].end_s + _NEAR_S, laid.hands[first:]):
        number = next((n for n, note in enumerate(notes) if _at(hand, note)), None)
        if number is None:
            continue
        if hand.text is None:
            held.add(number)
        elif hand.phrase == phrase:
            alike = [n for n, one in enumerate(syllables) if plain_word(one.text) == plain_word(hand.text)]
            nearest = min(alike, key=lambda n: abs(n - hand.place), default=None)
            in_order = number > max(begins.values(), default=-1)
            if nearest is not None and in_order and nearest > max(begins, default=-1):
                begins[nearest] = number
    return ByHand(begins, frozenset(held - set(begins.values())))
