"""The tempo a song may have, from its backing or else from the voice alone."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import BinaryIO

from ....core.song.onsets import onsets_of_notes
from ....core.song.tempo import Tempo, TempoEstimate, estimate_tempo
from ....formats.midi_tempo import MidiTempo, read_midi_tempo
from ....store.records import Track
from ...session.desk import Desk


@dataclass(frozen=True)
class TempoOffer:
    """Tempos on the song's clock, the most likely first, how sure that is, and the track they are heard in."""

    tempos: tuple[Tempo, ...] = ()
    confidence: float = 0.0
    heard_in: str | None = None


def offer_tempo(desk: Desk, song_id: str) -> TempoOffer:
    """What the song sounds like, whatever tempo it has; nothing while no track is ready."""
    desk.workspace.songs.get(song_id)
    ready = [track for track in desk.workspace.tracks.of_song(song_id) if track.ready]
    backings = [track for track in ready if track.role == "backing"]
    for track in backings or sorted(ready, key=lambda track: track.role != "lead")[:1]:
        found = desk.heard.tempo(track.audio_hash) if backings else _of_voice(desk, track)
        if found is not None:
            begins = _first_sung(desk, ready)
            tempos = tuple(_not_behind(Tempo(t.bpm, t.beats_per_bar, t.bar_one_s + track.offset_s), begins)
                           for t in found.tempos)  # fmt: skip
            return TempoOffer(tempos, found.confidence, track.name)
    return TempoOffer()


def _first_sung(desk: Desk, ready: list[Track]) -> float:
    """Where the first note of the song begins, in song seconds; infinite without one."""
    vocals = [track for track in ready if track.role != "backing" and track.derived_from is None]
    starts = [track.offset_s + notes[0].start_s for track in vocals if (notes := desk.analysis(track).notes)]
    return min(starts, default=math.inf)


def _not_behind(tempo: Tempo, begins_s: float) -> Tempo:
    """The tempo with bar 1 so many whole bars sooner that nothing is sung before it."""
    if begins_s >= tempo.bar_one_s:
        return tempo
    bar_s = 60.0 / tempo.bpm * tempo.beats_per_bar
    sooner = math.ceil((tempo.bar_one_s - begins_s) / bar_s)
    return replace(tempo, bar_one_s=tempo.bar_one_s - bar_s * sooner)


def tempo_of_midi(stream: BinaryIO) -> MidiTempo:
    """Tempo, meter and key at the beginning of a Standard MIDI file; AudioError when it is none."""
    return read_midi_tempo(stream)


def _of_voice(desk: Desk, track: Track) -> TempoEstimate | None:
    analysis = desk.analysis(track)
    return estimate_tempo(onsets_of_notes(analysis.notes, analysis.duration_s))
