"""Moments of a song as ticks of a Standard MIDI file, by its tempo map."""

from __future__ import annotations

from dataclasses import dataclass

from .beats import Meter

TICKS_A_QUARTER = 960


@dataclass(frozen=True)
class TickClock:
    """Counts ticks from the start of the bar `first_bar`, at or before bar 1, in a song with these meters."""

    meters: tuple[Meter, ...]
    first_bar: int = 1

    @property
    def begin_s(self) -> float:
        """Song seconds of tick 0."""
        first = self.meters[0]
        return first.start_s + (self.first_bar - 1) * first.bar_s

    def ticks(self, song_s: float) -> int:
        """The tick nearest to a moment of the song; before the first tick it is negative."""
        return round(self._exact(song_s))

    def _exact(self, song_s: float) -> float:
        ticks, at_s, tempo = 0.0, self.begin_s, self.meters[0].tempo
        for meter in self.meters[1:]:
            if meter.start_s >= song_s:
                break
            ticks += (meter.start_s - at_s) * tempo / 60.0 * TICKS_A_QUARTER
            at_s, tempo = meter.start_s, meter.tempo
        return ticks + (song_s - at_s) * tempo / 60.0 * TICKS_A_QUARTER


def clock_from(meters: tuple[Meter, ...], earliest_s: float) -> TickClock:
    """A clock that begins at bar 1, or as many whole bars before it as it takes to hold a moment of the song."""
    first = meters[0]
    bars = -int((earliest_s - first.start_s) // first.bar_s) if earliest_s < first.start_s else 0
    return TickClock(meters, 1 - bars)
