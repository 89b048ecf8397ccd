"""Something said of a track's words by hand, as one step of the song."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from ...core.signal.errors import NotFoundError, ParameterError
from ...core.signal.types import Note
from ..session.desk import Desk, Standing
from .by_hand import Hand, LaidByHand, laid_by_hand
from .laid import laid_syllables


def begin_at(desk: Desk, track_id: str, note_id: str, phrase: int, place: int) -> None:
    """Let a syllable, by its place in its phrase, begin at a note of the same phrase."""

    def tell(standing: Standing, laid: LaidByHand) -> tuple[LaidByHand, str]:
        note = _note(standing, note_id)
        syllable = next((one for one in laid_syllables(standing) if (one.phrase, one.place) == (phrase, place)), None)
        if syllable is None:
            raise NotFoundError("There is no such syllable in this track.")
        if note.phrase != phrase:
            raise ParameterError("A syllable stays in its phrase; type its words into the other phrase instead.")
        return laid.with_hand(Hand(_moment(note), phrase, place, syllable.text), note), f"“{syllable.text}” laid"

    _say(desk, track_id, tell)


def hold_at(desk: Desk, track_id: str, note_ids: Sequence[str]) -> None:
    """Let notes be held on from those before them."""

    def tell(standing: Standing, laid: LaidByHand) -> tuple[LaidByHand, str]:
        for note in (_note(standing, note_id) for note_id in note_ids):
            laid = laid.with_hand(Hand(_moment(note)), note)
        return laid, f"held on at {_named(note_ids)}"

    _say(desk, track_id, tell)


def forget_at(desk: Desk, track_id: str, note_ids: Sequence[str]) -> None:
    """Forget what was said of the syllables of notes by hand."""

    def tell(standing: Standing, laid: LaidByHand) -> tuple[LaidByHand, str]:
        for note_id in note_ids:
            laid = laid.without(_note(standing, note_id))
        return laid, f"as heard at {_named(note_ids)}"

    _say(desk, track_id, tell)


def cut_word(desk: Desk, track_id: str, word: str, parts: Sequence[str]) -> None:
    """Cut a word into syllables wherever it is sung; without any, as by rule."""

    def tell(_standing: Standing, laid: LaidByHand) -> tuple[LaidByHand, str]:
        return laid.with_cut(word, parts), "·".join(parts) if parts else f"“{word}” cut as by rule"

    _say(desk, track_id, tell)


def _note(standing: Standing, note_id: str) -> Note:
    edited = standing.content.notes.get(note_id)
    if edited is None:
        raise NotFoundError("There is no such note in this track.")
    return edited.note


def _moment(note: Note) -> float:
    return round(note.start_s, 4)


def _named(note_ids: Sequence[str]) -> str:
    return note_ids[0] if len(note_ids) == 1 else f"{len(note_ids)} notes"


def _say(desk: Desk, track_id: str, tell: Callable[[Standing, LaidByHand], tuple[LaidByHand, str]]) -> None:
    """Change what was said; what somebody else says meanwhile is not overwritten."""
    log = desk.workspace.log
    song_id = desk.workspace.tracks.get(track_id).song_id
    turn = log.turn(song_id)
    standing = desk.at(track_id)
    laid, what = tell(standing, laid_by_hand(standing.track.laid))
    data = laid_by_hand(laid.data()).data()  # refuses more than may be kept
    label = f"Words of “{standing.track.name}” · {what}"
    log.change(song_id, label, {f"track.{track_id}.laid": data}, base=turn)
