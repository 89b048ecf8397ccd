"""Words of a file given to the phrases of a track, to be looked at before they are taken."""

from __future__ import annotations

from collections.abc import Sequence

from ...core.signal.errors import ParameterError
from ...core.signal.types import HOP_S, Note
from ...core.song.lyrics.laying import ByHand, Place, lay
from ...core.song.lyrics.openings import places_of
from ...core.song.lyrics.syllables import syllables_of
from ...formats.lyrics.lyric_files import SungLine, read_lyrics
from ..session.desk import Desk, Standing
from .by_hand import laid_by_hand
from .language import language_of

_EARLY_S, _NEAR_S = 0.4, 1.0  # by how much the time of a line may be late, and off where a phrase begins
MOST_SYLLABLES = 20_000


def words_of_lyrics(desk: Desk, track_id: str, data: bytes) -> dict[str, str]:
    """The words of each phrase, by its number from 0, from a file's lines by where they lie best on its notes, or by
    the times that the file has.

    Raises
    ------
    ParameterError
        When the file cannot be read, has no words, or the track has no notes.
    """
    standing = desk.at(track_id)
    bar_one_s = standing.song.bar_one_s
    lines = read_lyrics(data, bar_one_s)
    notes = [one.note for one in standing.content.notes.values() if not one.note.spoken]
    if not notes:
        raise ParameterError("This track has no notes that words could lie on.")
    air = [one.event for one in standing.content.air.values()]
    places = places_of(notes, air, standing.analysis.level_db, HOP_S)
    found: dict[str, list[str]] = {}
    timed = lines[0].start_s is not None
    for part, begin, stop in _parts(standing, lines, notes):
        _give(standing, part, notes[begin:stop], places[begin:stop], found, timed=timed)
    return {phrase: " ".join(words) for phrase, words in found.items()}


def _parts(standing: Standing, lines: Sequence[SungLine], notes: Sequence[Note]) -> list[tuple[list[str], int, int]]:
    """Lines that are laid together, with the first of their notes and the one after the last: each by itself where the
    file has times, else all on all."""
    if lines[0].start_s is None:
        return [([line.text for line in lines], 0, len(notes))]
    firsts = [_first(notes, (line.start_s or 0.0) - standing.track.offset_s) for line in lines]
    ends = [*firsts[1:], len(notes)]
    return [([line.text], first, end) for line, first, end in zip(lines, firsts, ends, strict=True) if first < end]


def _first(notes: Sequence[Note], at_s: float) -> int:
    """The note that a line begins with: the first of a phrase near its time, else the next one."""
    opens = [n for n, note in enumerate(notes) if n == 0 or note.phrase != notes[n - 1].phrase]
    near = [n for n in opens if abs(notes[n].start_s - at_s) <= _NEAR_S]
    if near:
        return min(near, key=lambda n: abs(notes[n].start_s - at_s))
    return next((n for n, note in enumerate(notes) if note.start_s >= at_s - _EARLY_S), len(notes))


def _give(
    standing: Standing, lines: list[str], notes: Sequence[Note], places: Sequence[Place], found: dict[str, list[str]],
    *, timed: bool,
) -> None:  # fmt: skip
    """Give each word to the phrase of the note that its first syllable begins with."""
    language = standing.song.language or language_of("\n".join(lines))
    syllables = syllables_of(lines, language, laid_by_hand(standing.track.laid).cuts)
    if len(syllables) > MOST_SYLLABLES:
        raise ParameterError(f"These are more than {MOST_SYLLABLES:,} syllables.")
    begins = ByHand({0: 0} if timed else {})  # a line that has a time begins with the note that is there
    words = iter(word for line in lines for word in line.split())
    for one, number in zip(syllables, lay(syllables, places, begins), strict=True):
        word = next(words) if one.opens_word else ""
        if word and number is not None:
            found.setdefault(str(notes[number].phrase), []).append(word)
