"""The chords that are heard in a song's backing."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ....core.song.harmony.chords import HeardChord
from ....core.song.spelling import spelled_with_flats
from ...session.desk import Desk
from ...session.meters import meters_of
from .tempo_offer import offer_tempo


@dataclass(frozen=True)
class ShownChord:
    """A chord in song seconds: its label (Harte et al., ISMIR 2005), its name as musicians write it, its pitch classes
    from C on, the root first, and how sure it is, 0 to 1."""

    start_s: float
    end_s: float
    label: str
    title: str
    classes: tuple[int, ...]
    confidence: float


@dataclass(frozen=True)
class ChordsHeard:
    """The chords of a song, and the track they are heard in; None without a backing."""

    chords: tuple[ShownChord, ...] = ()
    heard_in: str | None = None


def chords_of(desk: Desk, song_id: str) -> ChordsHeard:
    """The chords of a song's first backing, on the beats of its tempo, or of the one that is heard as long as it has
    none."""
    song = desk.workspace.songs.get(song_id)
    backing = next((track for track in desk.workspace.tracks.of_song(song_id)
                    if track.role == "backing" and track.ready), None)  # fmt: skip
    if backing is None:
        return ChordsHeard()
    if not song.tempo_chosen:
        offered = offer_tempo(desk, song_id).tempos[:1]
        for tempo in offered:
            song = replace(song, tempo=tempo.bpm, beats_per_bar=tempo.beats_per_bar, bar_one_s=tempo.bar_one_s)
    meters = tuple(replace(one, start_s=one.start_s - backing.offset_s) for one in meters_of(song))
    flats = spelled_with_flats(song.tonic, song.scale)
    shown = (_shown(one, backing.offset_s, flats=flats) for one in desk.heard.chords(backing.audio_hash, meters))
    return ChordsHeard(tuple(shown), backing.name)


def _shown(one: HeardChord, offset_s: float, *, flats: bool) -> ShownChord:
    return ShownChord(one.start_s + offset_s, one.end_s + offset_s, one.chord.label, one.chord.title(flats=flats),
                      one.chord.classes, round(one.confidence, 3))  # fmt: skip
