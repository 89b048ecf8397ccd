"""Something said of a track's words by hand, as one step of the song."""

from __future__ import annotations

from collections.abc import Sequence

from ...core.signal.errors import NotFoundError, ParameterError
from ...core.signal.types import Note
from ..session.desk import Desk, Standing
from .by_hand import Hand, LaidByHand, laid_by_hand
from .laid import laid_syllables


def begin_at(desk: Desk, track_id: str, note_id: str, phrase: int, place: int) -> None:
    """Let a syllable, by its place in its phrase, begin at a note of the same phrase."""
    standing = desk.at(track_id)
    note = _note(standing, note_id)
    syllable = next((one for one in laid_syllables(standing) if (one.phrase, one.place) == (phrase, place)), None)
    if syllable is None:
        raise NotFoundError("There is no such syllable in this track.")
    if note.phrase != phrase:
        raise ParameterError("A syllable stays in its phrase; type its words into the other phrase instead.")
    hand = Hand(round(note.start_s, 4), phrase, place, syllable.text)
    _say(desk, standing, laid_by_hand(standing.track.laid).with_hand(hand, note), f"“{syllable.text}” laid")


def hold_at(desk: Desk, track_id: str, note_id: str) -> None:
    """Let a note be held on from the one before it."""
    standing = desk.at(track_id)
    note = _note(standing, note_id)
    laid = laid_by_hand(standing.track.laid).with_hand(Hand(round(note.start_s, 4)), note)
    _say(desk, standing, laid, f"held on at {note_id}")


def forget_at(desk: Desk, track_id: str, note_id: str) -> None:
    """Forget what was said of a note's syllable by hand."""
    standing = desk.at(track_id)
    laid = laid_by_hand(standing.track.laid).without(_note(standing, note_id))
    _say(desk, standing, laid, f"as heard at {note_id}")


def cut_word(desk: Desk, track_id: str, word: str, parts: Sequence[str]) -> None:
    """Cut a word into syllables wherever it is sung; without any, as by rule."""
    standing = desk.at(track_id)
    laid = laid_by_hand(standing.track.laid).with_cut(word, parts)
    _say(desk, standing, laid, "·".join(parts) if parts else f"“{word}” cut as by rule")


def _note(standing: Standing, note_id: str) -> Note:
    edited = standing.content.notes.get(note_id)
    if edited is None:
        raise NotFoundError("There is no such note in this track.")
    return edited.note


def _say(desk: Desk, standing: Standing, laid: LaidByHand, what: str) -> None:
    data = laid_by_hand(laid.data()).data()  # refuses more than may be kept
    label = f"Words of “{standing.track.name}” · {what}"
    desk.workspace.log.change(standing.track.song_id, label, {f"track.{standing.track.id}.laid": data})
