"""Notes of a melody on the grid of written music: bars, and in them notes and rests of lengths that can be written."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ...core.song.beats import Meter, meter_at
from ...core.song.ticks import TICKS_A_QUARTER, TickClock
from ..midi_melody import MelodyNote

UNITS_A_QUARTER = 4  # sixteenths: what a singer's line is written in (common practice, no source)
_LENGTHS = (16, 12, 8, 6, 4, 3, 2, 1)  # in sixteenths: whole, dotted half, half … sixteenth


@dataclass(frozen=True)
class Written:
    """A note or a rest (`number` None) of a length that can be written, in sixteenths; tied to what is before and after
    it when it is a part of a longer one."""

    length: int
    number: int | None = None
    lyric: str = ""
    tied_back: bool = False
    tied_on: bool = False


@dataclass(frozen=True)
class Bar:
    """A bar with its number, its meter, the sixteenth it begins at, and what is in it."""

    number: int
    meter: Meter
    begin: int
    written: tuple[Written, ...]


def written_bars(notes: Sequence[MelodyNote], clock: TickClock) -> list[Bar]:
    """Notes in order of time, each moved to the nearest sixteenth, in bars from the clock's first on; at least one bar.

    A note is a sixteenth at least, and ends where the next one begins.
    """
    placed = _placed(notes, clock)
    end = max((stop for _start, stop, _note in placed), default=1)
    bars, begin, number = [], 0, clock.first_bar
    while begin < end:
        meter = meter_at(clock.meters, number)
        length = meter.beats_per_bar * 4 * UNITS_A_QUARTER // meter.beat_unit
        bars.append(Bar(number, meter, begin, tuple(_in_bar(placed, begin, begin + length))))
        begin, number = begin + length, number + 1
    return bars


def _placed(notes: Sequence[MelodyNote], clock: TickClock) -> list[tuple[int, int, MelodyNote]]:
    unit = TICKS_A_QUARTER // UNITS_A_QUARTER
    found: list[tuple[int, int, MelodyNote]] = []
    for note in notes:
        start, stop = (round(clock.ticks(at) / unit) for at in (note.start_s, note.end_s))
        if found:
            before, _, last = found[-1]
            start = max(start, before + 1)
            found[-1] = before, min(found[-1][1], start), last
        found.append((start, max(stop, start + 1), note))
    return found


def _in_bar(placed: list[tuple[int, int, MelodyNote]], begin: int, end: int) -> Iterator[Written]:
    at = begin
    for start, stop, note in placed:
        if stop <= begin or start >= end:
            continue
        yield from (Written(length) for length in _lengths(max(start, begin) - at))
        first, last = max(start, begin), min(stop, end)
        here = first
        for length in _lengths(last - first):
            yield Written(length, note.number, note.lyric if here == start else "", here > start, here + length < stop)
            here += length
        at = last
    yield from (Written(length) for length in _lengths(end - at))


def _lengths(units: int) -> Iterator[int]:
    while units > 0:
        length = next(one for one in _LENGTHS if one <= units)
        yield length
        units -= length
