"""Words that are sung better elsewhere: for each flagged note, another place of the same syllable that is less off."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ...core.song.lyrics.syllables import plain_word
from ..lyrics.laid import laid_syllables
from ..session.desk import Desk, Standing
from .lending import SEMITONES

_LESS_OFF_CENTS = 10.0  # by how much less off a place has to be to be worth naming; common practice, no source
_MORE_STRAIN = 1.0  # of 100, that is none


@dataclass(frozen=True)
class SungBetter:
    """A flagged note and another one on which the same syllable is sung: how far each is from its target in cents as it
    stands, and where the other is."""

    note_id: str
    word: str
    track_id: str
    track: str
    other_id: str
    start_s: float
    off_cents: float
    other_off_cents: float


@dataclass(frozen=True)
class _Sung:
    note_id: str
    start_s: float
    target_midi: float
    off_cents: float
    strain: float


def sung_better(desk: Desk, track_id: str) -> list[SungBetter]:
    """For flagged notes of a track with known words, the place where the syllable is least off, with no more strain;
    not in voices that are made of others."""
    here = desk.at(track_id)
    flagged = {name for name, verdict in desk.verdicts(here).notes.items() if verdict.flags}
    wanted = [(key, note) for key, places in _sung(desk, here).items() for note in places if note.note_id in flagged]
    if not wanted:
        return []
    offers: dict[str, list[SungBetter]] = {}
    for track in desk.workspace.tracks.of_song(here.track.song_id):
        if not track.ready or not track.analysis_id or not track.words or track.derived_from:
            continue
        there = _sung(desk, here if track.id == track_id else desk.at(track.id))
        for key, note in wanted:
            offers.setdefault(note.note_id, []).extend(
                SungBetter(note.note_id, key[0], track.id, track.name, place.note_id, place.start_s + track.offset_s,
                           round(note.off_cents, 1), round(place.off_cents, 1))
                for place in there.get(key, []) if _is_better(note, place)
            )  # fmt: skip
    return [min(found, key=lambda one: abs(one.other_off_cents)) for found in offers.values() if found]


def _is_better(note: _Sung, place: _Sung) -> bool:
    less_off = abs(note.off_cents) - abs(place.off_cents) >= _LESS_OFF_CENTS
    within_reach = abs(place.target_midi - note.target_midi) <= SEMITONES
    return less_off and within_reach and place.strain <= note.strain + _MORE_STRAIN


def _sung(desk: Desk, standing: Standing) -> Mapping[tuple[str, int], list[_Sung]]:
    """Where each syllable is sung, by its word and its place in it."""
    verdicts, found = desk.verdicts(standing).notes, dict[tuple[str, int], list[_Sung]]()
    for one in laid_syllables(standing):
        note, verdict = standing.content.notes[one.note_id].note, verdicts[one.note_id]
        sung = _Sung(note.id, note.start_s, verdict.target_midi,
                     100.0 * (verdict.tuned_midi - verdict.target_midi), verdict.strain)  # fmt: skip
        found.setdefault((plain_word(one.word), one.part), []).append(sung)
    return found
