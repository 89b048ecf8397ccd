"""The words of a sound file outside the data folder laid on its notes, for the command line."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ...core.signal.errors import ParameterError
from ...core.signal.types import Analysis, Note
from ...core.song.lyrics.laying import lay
from ...core.song.lyrics.openings import places_of
from ...core.song.lyrics.syllables import Syllable, syllables_of
from ..lyrics.language import language_of
from ..song.import_audio import analyse_path

LONGEST_TEXT = 200_000


@dataclass(frozen=True)
class WordsOnNotes:
    """The syllables of a text in order, each with the note it begins with; None where it is not sung."""

    language: str
    syllables: list[tuple[Syllable, Note | None]]
    notes: int


def words_of_file(source: Path, text: Path, language: str | None = None) -> WordsOnNotes:
    """Lay the lines of a text on the phrases of a recording; they need not be equal in number.

    Raises
    ------
    ParameterError
        When the text cannot be read, or nothing is sung or typed.
    """
    try:
        lines = [line for line in text.read_text(encoding="utf-8-sig").splitlines() if line.strip()]
    except (OSError, UnicodeDecodeError) as error:
        raise ParameterError(f"“{text}” cannot be read as text in UTF-8: {error}") from error
    if sum(map(len, lines)) > LONGEST_TEXT:
        raise ParameterError(f"“{text}” is longer than {LONGEST_TEXT:,} characters.")
    language = language or language_of("\n".join(lines))
    syllables = syllables_of(lines, language)
    if not syllables:
        raise ParameterError(f"“{text}” has no words.")
    return words_on(analyse_path(source), syllables, language)


def words_on(found: Analysis, syllables: list[Syllable], language: str) -> WordsOnNotes:
    """Lay syllables on what was found in a recording."""
    notes = [note for note in found.notes if not note.spoken]
    numbers = lay(syllables, places_of(notes, found.air, found.level_db, found.contour.hop_s))
    on = [(one, None if number is None else notes[number]) for one, number in zip(syllables, numbers, strict=True)]
    return WordsOnNotes(language, on, len(notes))


def syllable_rows(words: WordsOnNotes) -> list[dict[str, Any]]:
    """Syllables that are sung as JSON has them: text, word, phrase from 1, note_id, and the note's start_s, end_s."""
    return [{"text": one.text, "word": one.word, "phrase": note.phrase + 1, "note_id": note.id,
             "start_s": round(note.start_s, 4), "end_s": round(note.end_s, 4)}
            for one, note in words.syllables if note is not None]  # fmt: skip
