"""Where the same word was sung too: places that are alike, the likeliest first."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ...core.alignment.likeness import likeness
from ...core.document.content import air_owners
from ...core.document.items.borrows import over
from ...core.document.time.give_way import MAX_STRETCH, MIN_STRETCH
from ...core.document.words import Word, word_at, word_of
from ...core.signal.types import HOP_S, Floats
from ...core.song.lyrics.syllables import plain_word
from ..lyrics.laid import laid_syllables
from ..session.desk import Desk, Standing
from .borrowing import place_name

MOST = 8
SEMITONES = 7.0  # of pitch that are within reach; common practice, no source
AROUND_S = 0.4  # of what is sung before and after that is compared as well
LEAST = 0.12  # likeness of what is offered at all
_AROUND_SHARE = 0.25
_EVERY = 2  # analysis frames a compared one


@dataclass(frozen=True)
class Offer:
    """A place where a word may be borrowed: how alike it sounds (0 to 1), how far its pitch is from what is wanted in
    semitones, how many times as long it lasts, and whether the same is sung there as far as words are known."""

    track_id: str
    name: str
    note_ids: tuple[str, ...]
    start_s: float
    end_s: float
    likeness: float
    semitones: float
    times_as_long: float
    same_words: bool


@dataclass(frozen=True)
class _Sought:
    """What is looked for: its own sound, what is around it, its pitch, and what is sung on it as far as is known."""

    word: Word
    inside: Floats
    around: Floats
    target_midi: float
    sung: tuple[str, ...]


def offers(desk: Desk, before: Standing, note_ids: list[str]) -> list[Offer]:
    """Places in all vocal tracks of the song that are alike to some notes of a standing, the likeliest first."""
    word = word_of(before.content, note_ids)
    features = desk.heard.timbre(before.track.audio_hash, before.analysis)
    targets = desk.verdicts(before).notes
    lengths = [one.note.end_s - one.note.start_s for one in word.notes]
    target = float(np.average([targets[one.note.id].target_midi for one in word.notes], weights=lengths))
    sought = _Sought(word, _inside(features, word), _around(features, word), target, _sung(_syllables(before), word))
    found = [offer for track in desk.workspace.tracks.of_song(before.track.song_id)
             if track.ready and track.analysis_id
             for offer in _in_track(desk, before, track.id, sought)]  # fmt: skip
    return _apart(sorted(found, key=_worth, reverse=True))[:MOST]


def _worth(offer: Offer) -> tuple[bool, float]:
    return offer.same_words, offer.likeness


def _in_track(desk: Desk, before: Standing, track_id: str, sought: _Sought) -> Iterator[Offer]:
    same = track_id == before.track.id
    other = before if same else desk.at(track_id)
    features = desk.heard.timbre(other.track.audio_hash, other.analysis)
    borrowed = list(other.content.borrows.values())
    tuned = desk.verdicts(other).notes
    syllables = _syllables(other)
    for word in _words_near(other, len(sought.word.notes)):
        here = same and word.start_s < sought.word.end_s and word.end_s > sought.word.start_s
        longer = word.length_s / sought.word.length_s
        off = float(np.mean([tuned[one.note.id].tuned_midi for one in word.notes])) - sought.target_midi
        out_of_reach = abs(off) > SEMITONES or not MIN_STRETCH < 1.0 / longer < MAX_STRETCH
        if here or out_of_reach or over(borrowed, word.start_s, word.end_s):
            continue
        same_words = bool(sought.sung) and _sung(syllables, word) == sought.sung
        least = 0.0 if same_words else LEAST
        alike = likeness(_inside(features, word), sought.inside, least)
        if alike < least:
            continue
        beside = likeness(_around(features, word), sought.around)
        yield Offer(
            track_id, place_name(before, other, word), tuple(one.note.id for one in word.notes), word.start_s,
            word.end_s, (1.0 - _AROUND_SHARE) * alike + _AROUND_SHARE * beside, off, longer,
            same_words,
        )  # fmt: skip


def _words_near(standing: Standing, how_many: int) -> Iterator[Word]:
    """All words of about as many notes, each within one phrase."""
    content, owners = standing.content, air_owners(standing.content)
    notes = list(content.notes.values())
    for count in {max(1, how_many - 1), how_many, how_many + 1}:
        for first in range(len(notes) - count + 1):
            if notes[first].note.phrase == notes[first + count - 1].note.phrase:
                yield word_at(content, owners, first, count)


def _syllables(standing: Standing) -> Mapping[str, Sequence[str]]:
    """What begins on each note, by word and syllable."""
    found: dict[str, list[str]] = {}
    for one in laid_syllables(standing):
        found.setdefault(one.note_id, []).append(f"{plain_word(one.word)} {one.part}")
    return found


def _sung(syllables: Mapping[str, Sequence[str]], word: Word) -> tuple[str, ...]:
    """What begins on the notes of a word."""
    return tuple(one for edited in word.notes for one in syllables.get(edited.note.id, ()))


def _inside(features: Floats, word: Word) -> Floats:
    return features[round(word.start_s / HOP_S) : round(word.end_s / HOP_S) : _EVERY]


def _around(features: Floats, word: Word) -> Floats:
    """What is sung just before and after a word."""
    reach, (a, b) = round(AROUND_S / HOP_S), (round(at / HOP_S) for at in (word.start_s, word.end_s))
    return np.concatenate([features[max(0, a - reach) : a : _EVERY], features[b : b + reach : _EVERY]])


def _apart(found: list[Offer]) -> list[Offer]:
    """Those that do not overlap a better one of the same track."""
    kept: list[Offer] = []
    for offer in found:
        if not any(offer.track_id == one.track_id and offer.start_s < one.end_s and offer.end_s > one.start_s
                   for one in kept):  # fmt: skip
            kept.append(offer)
    return kept
