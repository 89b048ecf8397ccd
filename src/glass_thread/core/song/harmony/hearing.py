"""The chords of a recording on the beats of its song."""

from __future__ import annotations

from collections.abc import Sequence

from ...signal.recording import Recording
from ..beats import Meter, meter_at, moment_of
from .chords import HeardChord, find_chords
from .pitch_strength import note_strength

_MOST_BEATS = 20_000


def hear_chords(recording: Recording, meters: Sequence[Meter]) -> list[HeardChord]:
    """The chords of a recording, in seconds of it, from its first beat to its end; `meters` are in its clock."""
    beats, places = _beats(meters, recording.frames / recording.sample_rate)
    return find_chords(note_strength(recording).notes, beats, places)


def _beats(meters: Sequence[Meter], duration_s: float) -> tuple[list[float], list[float]]:
    """Where each beat begins, with the end of the last one, and which share of its bar is over there, from 0."""
    bar = meters[0].bar - max(0, int(meters[0].start_s / meters[0].bar_s) + 1)
    beats, places = list[float](), list[float]()
    while len(beats) < _MOST_BEATS:
        count = meter_at(meters, bar).beats_per_bar
        for beat in range(count):
            at = moment_of(meters, bar, beat + 1.0)
            if at >= duration_s:
                return [*beats, duration_s] if beats else [], places
            if moment_of(meters, bar, beat + 2.0) > 0.0:
                beats.append(max(0.0, at))
                places.append(beat / count)
        bar += 1
    return beats, places[:-1]
