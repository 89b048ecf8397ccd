"""The chords that are heard in a song's backing."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ....core.song.harmony.chords import HeardChord
from ....core.song.keys import KeyMap
from ....core.song.spelling import spelled_with_flats
from ....store.records import Song
from ...session.desk import Desk
from ...session.meters import keys_under, meters_of
from ..typed_chords import typed_spans
from .tempo_offer import offer_tempo

_BEGUN_S = 1e-3  # after its bar has begun a change of key is


@dataclass(frozen=True)
class ShownChord:
    """A chord in song seconds: its label (Harte et al., ISMIR 2005), its name as musicians write it, its pitch classes
    from C on, the root first, how sure it is, 0 to 1, and whether somebody typed it."""

    start_s: float
    end_s: float
    label: str
    title: str
    classes: tuple[int, ...]
    confidence: float
    typed: bool = False


@dataclass(frozen=True)
class ChordsHeard:
    """The chords of a song, and the track they are heard in; None without a backing."""

    chords: tuple[ShownChord, ...] = ()
    heard_in: str | None = None


def chords_of(desk: Desk, song_id: str) -> ChordsHeard:
    """The chords of a song: those that were typed, and elsewhere those that are heard in its first backing, on the
    beats of its tempo, or of the one that is heard as long as it has none."""
    song = desk.workspace.songs.get(song_id)
    keys = keys_under(song, 0.0)
    typed = [_shown(HeardChord(start, end, chord, 1.0), 0.0, keys, typed=True)
             for start, end, chord in typed_spans(song.chords, meters_of(song))]  # fmt: skip
    heard = _heard(desk, song, keys)
    left = [part for one in heard.chords for part in _uncovered(one, typed)]
    return ChordsHeard(tuple(sorted((*left, *typed), key=lambda one: one.start_s)), heard.heard_in)


def _uncovered(one: ShownChord, typed: list[ShownChord]) -> list[ShownChord]:
    """What is left of a chord beside those that were typed."""
    left = [one]
    for other in typed:
        if other.end_s <= one.start_s or one.end_s <= other.start_s:
            continue
        sides = [(replace(part, end_s=min(part.end_s, other.start_s)),
                  replace(part, start_s=max(part.start_s, other.end_s))) for part in left]  # fmt: skip
        left = [side for both in sides for side in both if side.end_s > side.start_s]
    return left


def _heard(desk: Desk, song: Song, keys: KeyMap) -> ChordsHeard:
    backing = next((track for track in desk.workspace.tracks.of_song(song.id)
                    if track.role == "backing" and track.ready), None)  # fmt: skip
    if backing is None:
        return ChordsHeard()
    if not song.tempo_chosen:
        offered = offer_tempo(desk, song.id).tempos[:1]
        for tempo in offered:
            song = replace(song, tempo=tempo.bpm, beats_per_bar=tempo.beats_per_bar, bar_one_s=tempo.bar_one_s)
    meters = tuple(replace(one, start_s=one.start_s - backing.offset_s) for one in meters_of(song))
    shown = (_shown(one, backing.offset_s, keys) for one in desk.heard.chords(backing.audio_hash, meters))
    return ChordsHeard(tuple(shown), backing.name)


def _shown(one: HeardChord, offset_s: float, keys: KeyMap, *, typed: bool = False) -> ShownChord:
    """A chord in song seconds, spelled as the key asks that the song has there."""
    start_s = one.start_s + offset_s
    key = keys.at(start_s + _BEGUN_S)
    title = one.chord.title(flats=spelled_with_flats(key.tonic, key.scale))
    return ShownChord(start_s, one.end_s + offset_s, one.chord.label, title, one.chord.classes,
                      round(one.confidence, 3), typed)  # fmt: skip
