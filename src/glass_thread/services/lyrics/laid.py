"""The words of a track on its notes: laid by what is heard, and by hand where somebody said so."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from ...core.signal.types import HOP_S, AirEvent, Note
from ...core.song.lyrics.laying import lay
from ...core.song.lyrics.openings import places_of
from ...core.song.lyrics.syllables import Syllable, syllables_of
from ...store.records import Song, Track
from ..session.desk import Standing
from ..session.sounding import SoundingNote
from .by_hand import LaidByHand, in_phrase, laid_by_hand
from .language import language_of


@dataclass(frozen=True)
class LaidSyllable:
    """A syllable of a phrase on the note it begins with: its text, its word, which of the word's `count` it is and
    which of the phrase's, all from 0; `by_hand` when somebody laid it there."""

    text: str
    word: str
    part: int
    count: int
    phrase: int
    place: int
    note_id: str
    by_hand: bool


def words_language(song: Song, track: Track) -> str:
    """The language of a track's words: the song's, or the one that they look like."""
    return song.language or language_of("\n".join(text for _n, text in sorted(track.words.items())))


def laid_syllables(standing: Standing) -> list[LaidSyllable]:
    """The syllables of a track as it stands, in order of time."""
    track = standing.track
    if not track.words:
        return []
    language, laid = words_language(standing.song, track), laid_by_hand(track.laid)
    by_phrase: dict[int, list[Note]] = {}
    for edited in standing.content.notes.values():
        by_phrase.setdefault(edited.note.phrase, []).append(edited.note)
    air = sorted((one.event for one in standing.content.air.values()), key=lambda event: event.start_s)
    found: list[LaidSyllable] = []
    for phrase, notes in sorted(by_phrase.items()):
        if text := track.words.get(str(phrase), ""):
            inside = sorted(notes, key=lambda note: note.start_s)
            syllables = syllables_of([text], language, laid.cuts)
            found += _in_phrase(standing, phrase, inside, _around(air, inside), syllables, laid)
    return found


def _around(air: list[AirEvent], notes: list[Note]) -> list[AirEvent]:
    """The events, of all in order of time, that lie in a phrase or just before it."""
    first = bisect_left(air, notes[0].start_s - 1.0, key=lambda event: event.start_s)
    after = bisect_left(air, notes[-1].end_s, key=lambda event: event.start_s)
    return air[first:after]


def _in_phrase(
    standing: Standing, phrase: int, notes: list[Note], air: list[AirEvent], syllables: list[Syllable],
    laid: LaidByHand,
) -> list[LaidSyllable]:  # fmt: skip
    by_hand = in_phrase(laid, phrase, syllables, notes)
    numbers = lay(syllables, places_of(notes, air, standing.analysis.level_db, HOP_S), by_hand, all_sung=True)
    return [
        LaidSyllable(one.text, one.word, one.place, one.count, phrase, place, notes[number].id,
                     by_hand.begins.get(place) == number)
        for place, (one, number) in enumerate(zip(syllables, numbers, strict=True)) if number is not None
    ]  # fmt: skip


def texts_on(syllables: list[LaidSyllable], *, goes_on_from: bool = False) -> Mapping[str, str]:
    """What each note begins, by its name: its syllables, with a hyphen where their word goes on with another note, and
    with `goes_on_from` also where it began on another."""
    by_note: dict[str, list[LaidSyllable]] = {}
    for one in syllables:
        by_note.setdefault(one.note_id, []).append(one)
    found = {}
    for note, here in by_note.items():
        text = "".join((" " if one.part == 0 and n else "") + one.text for n, one in enumerate(here))
        before = "-" if goes_on_from and here[0].part > 0 else ""
        found[note] = before + text + ("-" if here[-1].part + 1 < here[-1].count and text[-1:] != "-" else "")
    return found


def words_at(standing: Standing, syllables: list[LaidSyllable]) -> Mapping[str, str]:
    """The word that is sung on each note, by its name: the one it begins or goes on with, those it is held on from
    too."""
    begun: dict[str, list[str]] = {}
    for one in syllables:
        words = begun.setdefault(one.note_id, [])
        if one.part == 0 or not words:
            words.append(one.word)
    found: dict[str, str] = {}
    last: tuple[int, str] = (-1, "")
    for edited in standing.content.notes.values():
        note = edited.note
        if note.id in begun:
            last = note.phrase, begun[note.id][-1]
        word = " ".join(begun[note.id]) if note.id in begun else last[1] if last[0] == note.phrase else ""
        if word:
            found[note.id] = word
    return found


def sounding_texts(notes: Sequence[SoundingNote], *, goes_on_from: bool = False) -> list[str]:
    """What each of some notes begins, as `texts_on` says; in a comp by the words of the version it is from."""
    return _by_part(notes, lambda part: texts_on(laid_syllables(part), goes_on_from=goes_on_from))


def sounding_words(notes: Sequence[SoundingNote]) -> list[str]:
    """The word that is sung on each of some notes, as `words_at` says."""
    return _by_part(notes, lambda part: words_at(part, laid_syllables(part)))


def _by_part(notes: Sequence[SoundingNote], ask: Callable[[Standing], Mapping[str, str]]) -> list[str]:
    known = {id(note.part): note.part for note in notes}
    found = {key: ask(part) for key, part in known.items()}
    return [found[id(note.part)].get(note.edited.note.id, "") for note in notes]
