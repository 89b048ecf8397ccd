"""Words that are sung better elsewhere: for each flagged note, another place of the same syllable that is less off."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ...core.song.lyrics.syllables import plain_word
from ..lyrics.laid import laid_syllables
from ..session.desk import Desk, Standing
from .lending import SEMITONES

_LESS_OFF_CENTS = 10.0  # by how much less off a place has to be to be worth naming; common practice, no source


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
    """For flagged notes of a track with known words, the place where the syllable is least off, with no more strain."""
    here = desk.at(track_id)
    flagged = {name for name, verdict in desk.verdicts(here).notes.items() if verdict.flags}
    wanted = {key: [one for one in places if one.note_id in flagged] for key, places in _sung(desk, here).items()}
    if not any(wanted.values()):
        return []
    found: dict[str, SungBetter] = {}
    for track in desk.workspace.tracks.of_song(here.track.song_id):
        if not (track.ready and track.analysis_id and track.words):
            continue
        other = here if track.id == track_id else desk.at(track.id)
        there = _sung(desk, other)
        for key, notes in wanted.items():
            for note in notes:
                for place in _better(note, there.get(key, [])):
                    best = found.get(note.note_id)
                    if best is None or abs(place.off_cents) < abs(best.other_off_cents):
                        found[note.note_id] = SungBetter(
                            note.note_id, key[0], track.id, track.name, place.note_id,
                            place.start_s + track.offset_s, round(note.off_cents, 1), round(place.off_cents, 1),
                        )  # fmt: skip
    return list(found.values())


def _better(note: _Sung, places: list[_Sung]) -> Iterator[_Sung]:
    for place in places:
        less_off = abs(note.off_cents) - abs(place.off_cents) >= _LESS_OFF_CENTS
        within_reach = abs(place.target_midi - note.target_midi) <= SEMITONES
        if place.note_id != note.note_id and less_off and within_reach and place.strain <= note.strain + 1.0:
            yield place


def _sung(desk: Desk, standing: Standing) -> Mapping[tuple[str, int], list[_Sung]]:
    """Where each syllable is sung, by its word and its place in it."""
    verdicts, found = desk.verdicts(standing).notes, dict[tuple[str, int], list[_Sung]]()
    for one in laid_syllables(standing):
        note, verdict = standing.content.notes[one.note_id].note, verdicts[one.note_id]
        sung = _Sung(note.id, note.start_s, verdict.target_midi,
                     100.0 * (verdict.tuned_midi - verdict.target_midi), verdict.strain)  # fmt: skip
        found.setdefault((plain_word(one.word), one.part), []).append(sung)
    return found
