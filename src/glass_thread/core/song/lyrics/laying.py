"""Syllables laid on notes by dynamic programming over what is heard where notes meet.

A syllable begins at a note that comes after air, a consonant or a dip of level; the rest of the notes are held on. The
costs are negative logarithms of chances, as in forced alignment (L. R. Rabiner, "A tutorial on hidden Markov models",
Proc. IEEE 77, 1989). They were set on scores sung by the package pysinsy with its labels; `glass-thread bench words`
measures on others.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .syllables import Syllable

MOST_ON_A_NOTE = 4
_PHRASE_OPENS = 0.98  # chance that the first note of a phrase begins a syllable
_STACKED, _STACKED_LONG = 4.2, 2.0  # one more syllable on a note; on one of more than its share of time
_LONG = 1.9  # times a syllable's share of the singing
_WITHOUT_WORDS, _WITHOUT_WORDS_NOTE = 4.0, 0.5  # a phrase that nobody typed, and each of its notes
_LINE_NOT_SUNG, _SYLLABLE_NOT_SUNG = 5.0, 1.0
_BREATH_WITHIN_LINE, _BREATH_WITHIN_WORD = 2.5, 5.0
_LINE_WITHOUT_REST, _LESS_A_SECOND, _LINE_AFTER_REST = 4.0, 15.0, 0.3  # a line that begins inside a phrase
_LINE_BROKEN = 8.0  # a line that goes on after a phrase without words
_REST_S, _REST_WITHIN_LINE = 0.2, 0.4
_NOISE = {"hard": 0.85, "open": 0.08, "": 0.4}  # chance of such a consonant before a syllable, by how it is written
_NOISE_HELD = 0.06  # and inside of one
_NEVER = 1e9


@dataclass(frozen=True)
class Place:
    """A note as syllables see it: its seconds, its phrase, the chance by its level that a syllable begins with it, and
    whether a consonant without pitch is heard before it."""

    start_s: float
    end_s: float
    phrase: int
    opens: float
    noisy: bool = False


@dataclass(frozen=True)
class ByHand:
    """What somebody laid: syllables by the number of the note each begins with, and notes that are held on."""

    begins: Mapping[int, int] = field(default_factory=dict)
    held: frozenset[int] = frozenset()


def lay(
    syllables: Sequence[Syllable], places: Sequence[Place], by_hand: ByHand | None = None, *, all_sung: bool = False
) -> list[int | None]:
    """The number of the note that each syllable begins with, in order; None for one that is not sung.

    Notes may carry several syllables; phrases without words and lines that are not sung are told by what they cost,
    except with `all_sung`, where there are neither.
    """
    if not syllables or not places:
        return [None] * len(syllables)
    search = _Search(syllables, places, by_hand or ByHand(), all_sung=all_sung)
    for number in range(len(places)):
        search.step(number)
    return search.found()


class _Back(NamedTuple):
    """The way to each count at a note: how many syllables begin there, whether before them nothing was sung, whether
    singing ended there, and from which count lines were passed over, with whether that was in silence."""

    chosen: NDArray[np.int8]
    was_silent: NDArray[np.bool_]
    left_words: NDArray[np.bool_]
    came_from: NDArray[np.int32]
    from_silence: NDArray[np.bool_]


class _Search:
    """The cheapest way to every count of syllables begun, note by note: within words, and in phrases without."""

    def __init__(
        self, syllables: Sequence[Syllable], places: Sequence[Place], by_hand: ByHand, *, all_sung: bool
    ) -> None:
        self.places, self.by_hand, self.all_sung = places, by_hand, all_sung
        self.count = len(syllables)
        self.share_s = sum(one.end_s - one.start_s for one in places) / max(1, self.count)
        opens_line = np.array([n == 0 or one.line != syllables[n - 1].line for n, one in enumerate(syllables)])
        self.lines = [*np.flatnonzero(opens_line).tolist(), self.count]
        opens_word = np.array([one.opens_word for one in syllables])
        self.at_phrase = np.where(opens_line, 0.0, np.where(opens_word, _BREATH_WITHIN_LINE, _BREATH_WITHIN_WORD))
        self.opens_line = opens_line
        noise = np.array([_NOISE[one.onset] for one in syllables])
        self.noise = -np.log(noise), -np.log(1.0 - noise)
        self.fixed = {syllable: note for syllable, note in by_hand.begins.items() if 0 <= syllable < self.count}
        self.sung = np.full(self.count + 1, _NEVER)
        self.silent = np.full(self.count + 1, _NEVER)
        self.silent[0] = 0.0
        self.back: list[_Back] = []

    def step(self, number: int) -> None:
        """Take in one more note."""
        place = self.places[number]
        first = number == 0 or place.phrase != self.places[number - 1].phrase
        opens = _PHRASE_OPENS if first else min(max(place.opens, 0.01), 0.99)
        came_from = np.arange(self.count + 1, dtype=np.int32)
        from_silence = np.zeros(self.count + 1, dtype=bool)
        if first and not self.all_sung:
            self._skip_lines(came_from, from_silence)
        after_silence = self.silent + np.append(np.where(self.opens_line, 0.0, _LINE_BROKEN), 0.0)
        enter = np.minimum(self.sung, after_silence) if first else self.sung
        was_silent = after_silence < self.sung if first else np.zeros(self.count + 1, dtype=bool)
        sung, chosen = self._begun(number, enter, opens, first=first, long=self._is_long(place))
        holding = -np.log(1.0 - opens) - np.log(_NOISE_HELD if place.noisy else 1.0 - _NOISE_HELD)
        held = self.sung + holding * (number not in self.by_hand.held)
        if number in self.fixed.values():
            held = np.full_like(held, _NEVER)
        take_held = held <= sung
        sung, chosen = np.where(take_held, held, sung), np.where(take_held, 0, chosen).astype(np.int8)
        stays_silent = self.silent + _WITHOUT_WORDS_NOTE
        if first:
            stays_silent = np.minimum(self.sung, self.silent) + _WITHOUT_WORDS
        if number in self.fixed.values() or self.all_sung:
            stays_silent = np.full_like(stays_silent, _NEVER)
        left_words = (self.sung <= self.silent) & first
        self.back.append(_Back(chosen, was_silent, left_words, came_from, from_silence))
        self.sung, self.silent = sung, stays_silent

    def _is_long(self, place: Place) -> bool:
        return place.end_s - place.start_s > _LONG * self.share_s

    def _skip_lines(self, came_from: NDArray[np.int32], from_silence: NDArray[np.bool_]) -> None:
        """Let whole lines not be sung before a phrase, unless there is but one."""
        if len(self.lines) < 3:
            return
        for start, after in zip(self.lines[:-1], self.lines[1:], strict=True):
            was_silent = self.silent[start] < self.sung[start]
            cost = min(self.sung[start], self.silent[start]) + _LINE_NOT_SUNG + _SYLLABLE_NOT_SUNG * (after - start)
            if cost < min(self.sung[after], self.silent[after]):
                self.silent[after], self.sung[after] = cost, _NEVER
                skipped = came_from[start] != start
                came_from[after], from_silence[after] = came_from[start], from_silence[start] if skipped else was_silent

    def _begun(
        self, number: int, enter: NDArray[np.float64], opens: float, *, first: bool, long: bool
    ) -> tuple[NDArray[np.float64], NDArray[np.int8]]:
        """The cheapest way to each count when one syllable or several begin with this note, and how many do."""
        best, chosen = np.full(self.count + 1, _NEVER), np.zeros(self.count + 1, dtype=np.int8)
        if number in self.by_hand.held:
            return best, chosen
        own = -np.log(opens) + (self.at_phrase if first else self._within(number))
        own = own + self.noise[0 if self.places[number].noisy else 1]
        for many in range(1, min(MOST_ON_A_NOTE, self.count) + 1):
            cost = enter[:-many] + own[: self.count + 1 - many]
            cost = cost + (many - 1) * (_STACKED_LONG if long else _STACKED)
            cost = np.where(self._allowed(number, many), cost, _NEVER)
            better = cost < best[many:]
            best[many:] = np.where(better, cost, best[many:])
            chosen[many:] = np.where(better, many, chosen[many:])
        return best, chosen

    def _within(self, number: int) -> NDArray[np.float64]:
        """What each syllable costs at a note inside of a phrase, by the rest before it."""
        rest_s = max(0.0, self.places[number].start_s - self.places[number - 1].end_s)
        line = max(_LINE_AFTER_REST, _LINE_WITHOUT_REST - _LESS_A_SECOND * rest_s)
        return np.where(self.opens_line, line, _REST_WITHIN_LINE if rest_s > _REST_S else 0.0)

    def _allowed(self, number: int, many: int) -> NDArray[np.bool_]:
        """For each count before, whether what was laid by hand lets `many` syllables begin with this note."""
        allowed = np.ones(self.count + 1 - many, dtype=bool)
        for syllable, note in self.fixed.items():
            covers = np.zeros_like(allowed)
            covers[max(0, syllable - many + 1) : syllable + 1] = True
            allowed &= covers if note == number else ~covers
        return allowed

    def found(self) -> list[int | None]:
        """Follow the cheapest way back; what is left over at the end goes on the last note that sings."""
        rest = np.arange(self.count, -1, -1)
        ends = np.minimum(self.sung, self.silent) + rest * _STACKED
        at = int(np.argmin(ends))
        silent = bool(self.silent[at] < self.sung[at])
        notes: list[int | None] = [None] * self.count
        for number in range(len(self.back) - 1, -1, -1):
            back = self.back[number]
            if silent:
                silent = not back.left_words[at]
            elif back.chosen[at]:
                many = int(back.chosen[at])
                notes[at - many : at] = [number] * many
                at -= many
                silent = bool(back.was_silent[at])
            if back.came_from[at] != at:
                silent, at = bool(back.from_silence[at]), int(back.came_from[at])
        last = next((one for one in reversed(notes) if one is not None), len(self.places) - 1)
        done = max((n for n, one in enumerate(notes) if one is not None), default=-1)
        return [*notes[: done + 1], *([last] * (self.count - done - 1))]
