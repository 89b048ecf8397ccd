"""Words: notes that follow each other, with the consonants that belong to them; and words that are lent."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..signal.errors import ParameterError
from ..signal.types import HOP_S
from .content import Content, EditedAir, air_owners
from .items.borrows import Borrow
from .notes import EditedNote, selected

FURTHEST_S = 0.6  # that a word's consonants reach beyond its notes


@dataclass(frozen=True)
class Word:
    """Notes with their air, in seconds of the recording.

    `start_s` and `end_s` are those of the first and last sound, `vowel_s` and `last_s` where the notes begin and end;
    `room_s` is what lies free around: from the end of the sound before to the start of the sound after.
    """

    notes: tuple[EditedNote, ...]
    air: tuple[EditedAir, ...]
    start_s: float
    vowel_s: float
    last_s: float
    end_s: float
    room_s: tuple[float, float]

    @property
    def length_s(self) -> float:
        """From the first note's start to the last one's end."""
        return self.last_s - self.vowel_s

    @property
    def centre_midi(self) -> float:
        """The mean pitch of the notes, weighted by how long they last."""
        lengths = [one.note.end_s - one.note.start_s for one in self.notes]
        return sum(n * one.note.centre_midi for n, one in zip(lengths, self.notes, strict=True)) / sum(lengths)


@dataclass(frozen=True)
class Loan:
    """What is laid in, without an id of its own, and the word that it brings along."""

    borrow: Borrow
    word: Word


def word_of(content: Content, note_ids: Sequence[str]) -> Word:
    """The word that some notes make.

    Raises
    ------
    ParameterError, NotFoundError
        When no notes are named, unknown ones, or such that do not follow each other.
    """
    chosen = sorted(selected(content.notes, note_ids), key=lambda one: one.note.start_s)
    ordered = list(content.notes.values())
    places = [ordered.index(one) for one in (chosen[0], chosen[-1])]
    if places[1] - places[0] + 1 != len(chosen):
        raise ParameterError("A word is notes that follow each other; select those between the first and last as well.")
    return word_at(content, air_owners(content), places[0], len(chosen))


def word_at(content: Content, owners: dict[str, str | None], first: int, how_many: int) -> Word:
    """The word of so many notes from note number `first` on; `owners` as `air_owners` finds them."""
    ordered = list(content.notes.values())
    chosen = ordered[first : first + how_many]
    vowel_s, last_s = chosen[0].note.start_s, chosen[-1].note.end_s
    names = {one.note.id for one in chosen}
    near = [one for one in content.air.values() if one.event.end_s > vowel_s - FURTHEST_S - 1.0
            and one.event.start_s < last_s + FURTHEST_S + 1.0]  # fmt: skip
    own = [one for one in near if _belongs(one, owners, names, vowel_s, last_s)]
    start_s = min([vowel_s, *(one.event.start_s for one in own)])
    end_s = max([last_s, *(one.event.end_s for one in own)])
    others = [one.span_s for one in near if one not in own]
    before = [0.0, *(one.note.end_s for one in ordered[max(0, first - 1) : first])]
    before += [b for _a, b in others if b <= vowel_s + HOP_S]
    after = [one.note.start_s for one in ordered[first + how_many : first + how_many + 1]]
    after += [a for a, _b in others if a >= last_s - HOP_S]
    room = min(max(before), start_s), max(min([*after, float("inf")]), end_s)
    return Word(tuple(chosen), tuple(own), start_s, vowel_s, last_s, end_s, room)


def _belongs(air: EditedAir, owners: dict[str, str | None], names: set[str], vowel_s: float, last_s: float) -> bool:
    """True for what sounds inside the notes, and for their consonants; a breath before a word is not of it."""
    a, b = air.span_s
    if vowel_s - HOP_S <= a and b <= last_s + HOP_S:
        return True
    return air.event.kind != "breath" and owners.get(air.event.id) in names and a > vowel_s - FURTHEST_S
