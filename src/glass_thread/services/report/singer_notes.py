"""Singer notes: what is claimed of a singer from one take, one song or all songs, with places to hear."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ...core.document.notes import current_targets
from ...core.document.operations.on_follow import Follow
from ...core.measure.habit_table import Seen
from ...core.measure.habits import Claim, claims, interval, middle
from ...core.measure.observations import Observed, observe
from ...core.signal.errors import ParameterError
from ...core.signal.types import Floats
from ...core.song.beats import bar_text, grid_lines
from ...core.song.lyrics.syllables import plain_word
from ...formats.csv_table import csv_table
from ...store.records import Song, Track
from ..lyrics.laid import laid_syllables
from ..session.desk import Desk, Standing
from ..session.meters import meters_of
from ..voices.following import followed, side_of

SCOPES = ("take", "song", "singer")
GRID = "1/8"
COLUMNS = ("claim", "kind", "value", "unit", "song", "track", "bar", "at_s")
_LEAST_BY_SONG = 12  # values of each of two songs before they are held against each other


@dataclass(frozen=True)
class Place:
    """A note in a take, in song seconds and by bar, with the word that begins there, if that is known, and the value a
    habit reads."""

    track_id: str
    song: str
    track: str
    start_s: float
    end_s: float
    bar: str
    value: float
    word: str = ""


@dataclass(frozen=True)
class Told:
    """A claim with where its values lie, the places where it is clearest, and how it changed from song to song."""

    claim: Claim
    values: tuple[Place, ...]
    clearest: tuple[Place, ...]
    change: str


@dataclass(frozen=True)
class SingerNotes:
    """What is claimed: of whom, from how many takes and notes, how many more were too short or unsure to tell, and how
    sure the reading is, 0 to 1."""

    singer: str
    takes: int
    notes: int
    left_out: int
    confidence: float
    told: tuple[Told, ...]


@dataclass(frozen=True)
class _Heard:
    """A note that was looked at, with the take it is of."""

    song: Song
    track: Track
    bar: str
    seen: Observed


def singer_notes(desk: Desk, track_id: str, scope: str = "take") -> SingerNotes:
    """What the notes of a take carry, or of all takes of its singer in the song or in all songs.

    Raises
    ------
    ParameterError
        When more than one take is asked for and the track names no singer, or the track is made of another one.
    """
    track = desk.track(track_id)
    if track.derived_from:
        raise ParameterError("This track is made of another one; look at the take itself.")
    takes = [track] if scope == "take" else _takes(desk, track, scope)
    standings = [desk.at(take.id) for take in takes]
    heard = [one for standing in standings for one in _looked_at(desk, standing)]
    there = sum(len(standing.content.notes) for standing in standings)
    told = [_told(claim, heard) for claim in claims([one.seen for one in heard])]
    sure = float(np.mean([one.seen.confidence for one in heard])) if heard else 0.0
    return SingerNotes(track.singer or track.name, len(takes), len(heard), there - len(heard), sure, tuple(told))


def _takes(desk: Desk, track: Track, scope: str) -> list[Track]:
    """The recorded takes of a track's singer that are ready, in the song or in all songs, oldest song first."""
    if not track.singer:
        raise ParameterError("Say who sings this track first; then other takes of the same singer are found.")
    songs = [desk.workspace.songs.get(track.song_id)] if scope == "song" else desk.workspace.songs.all()
    there = (one for song in songs for one in desk.workspace.tracks.of_song(song.id))
    return [one for one in there if one.singer == track.singer and one.ready and one.analysis_id
            and one.derived_from is None and one.role != "backing"]  # fmt: skip


def _looked_at(desk: Desk, standing: Standing) -> list[_Heard]:
    track = standing.track
    notes = list(standing.content.notes.values())
    targets = current_targets(standing.content.notes, standing.keys)
    found = observe(notes, targets, standing.analysis, _lines(standing.song, track))
    usual_db = float(np.median([one.level_db for one in found])) if found else 0.0
    after, meters = _after_lead_ms(desk, standing), meters_of(standing.song)
    opened = {one.note_id: plain_word(one.word) for one in laid_syllables(standing) if one.part == 0}
    return [_Heard(standing.song, track, bar_text(meters, one.start_s + track.offset_s),
                   replace(one, level_db=one.level_db - usual_db,
                           after_lead_ms=after.get(one.note_id, float("nan")),
                           word=opened.get(one.note_id, "")))
            for one in found]  # fmt: skip


def _after_lead_ms(desk: Desk, standing: Standing) -> dict[str, float]:
    """By how much each note of a double or harmony comes after the lead's, as both were sung; nothing of a lead."""
    track = standing.track
    others = desk.workspace.tracks.of_song(track.song_id) if track.role in ("double", "harmony") else []
    lead = next((one for one in others if one.role == "lead" and one.ready and one.analysis_id), None)
    if lead is None:
        return {}
    asked = Follow(lead_track=lead.id)
    found = followed(side_of(desk, standing), side_of(desk, desk.at(lead.id)), asked)
    notes = standing.content.notes
    return {pair.note_id: 1000.0 * (notes[pair.note_id].note.start_s + track.offset_s - pair.start_s - lead.offset_s)
            for pair in found.matching.pairs}  # fmt: skip


def _lines(song: Song, track: Track) -> Floats | None:
    """The grid that timing is held against, in seconds of the recording; none while the song has no tempo."""
    if not song.tempo_chosen:
        return None
    begin, end = track.offset_s - 1.0, track.offset_s + track.duration_s + 1.0
    return grid_lines(meters_of(song), GRID, begin, end) - track.offset_s


def _told(claim: Claim, heard: Sequence[_Heard]) -> Told:
    values = {one.place: _place(heard[one.place], one.value) for one in claim.seen}
    return Told(claim, tuple(values.values()), tuple(values[place] for place in claim.clearest), _change(claim, heard))


def _place(one: _Heard, value: float) -> Place:
    start, end = (at + one.track.offset_s for at in (one.seen.start_s, one.seen.end_s))
    return Place(one.track.id, one.song.title, one.track.name, start, end, one.bar, value, one.seen.word)


def _change(claim: Claim, heard: Sequence[_Heard]) -> str:
    """The first song against the last, where both have enough notes and cannot be alike by chance."""
    by_song: dict[str, list[Seen]] = {}
    for one in claim.seen:
        by_song.setdefault(heard[one.place].song.id, []).append(one)
    enough = [seen for seen in by_song.values() if len(seen) >= _LEAST_BY_SONG]
    if len(enough) < 2:
        return ""
    first, last = (np.array([one.value for one in seen]) for seen in (enough[0], enough[-1]))
    (low, high), (lower, higher) = interval(first), interval(last)
    if high >= lower and higher >= low:
        return ""
    titles = [heard[seen[0].place].song.title for seen in (enough[0], enough[-1])]
    return (f"“{titles[0]}”: {middle(first):.0f} {claim.unit}, “{titles[1]}”: {middle(last):.0f} {claim.unit}"
            ).replace("-", "−")  # fmt: skip


def notes_csv(found: SingerNotes) -> str:
    """Every value behind every claim, one a row."""
    rows = [(told.claim.words, told.claim.kind, round(one.value, 3), told.claim.unit, one.song, one.track, one.bar,
             round(one.start_s, 3)) for told in found.told for one in told.values]  # fmt: skip
    return csv_table(COLUMNS, rows)
