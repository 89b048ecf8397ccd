"""Bars, beats and parts of beats as moments of the song, also where tempo and meter change."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from ..signal.errors import ParameterError
from ..signal.types import Floats
from ..signal.validation import in_range

MOST_BARS, MOST_CHANGES = 10_000, 2_000
_SHORTEST_S = 0.01  # of a grid's step
_PARTS = {"1/2": Fraction(1, 2), "1/4": Fraction(1, 4), "1/8": Fraction(1, 8), "1/16": Fraction(1, 16),
          "1/32": Fraction(1, 32)}  # fmt: skip
# Name of a grid: its step in whole notes; a bar is as long as its meter says.
GRIDS: dict[str, Fraction | None] = {
    "bar": None,
    "beat": None,
    **_PARTS,
    **{f"{name} triplet": part * Fraction(2, 3) for name, part in _PARTS.items() if name not in ("1/2", "1/32")},
    **{f"{name} dotted": part * Fraction(3, 2) for name, part in _PARTS.items() if name not in ("1/2", "1/32")},
}


@dataclass(frozen=True)
class TempoChange:
    """Another tempo from a beat of a bar on, both counted from 1, or another meter from the start of a bar on."""

    bar: int
    tempo: float
    beats_per_bar: int
    beat_unit: int
    beat: int = 1


@dataclass(frozen=True)
class Meter:
    """Tempo and meter from a moment on: quarter notes a minute, and how many beats of what value a bar has.

    A beat is a `beat_unit`-th of a whole note; tempo counts quarter notes, as Standard MIDI files do.  At `start_s`,
    `passed` beats of bar `bar` are over.
    """

    start_s: float
    tempo: float
    beats_per_bar: int = 4
    beat_unit: int = 4
    bar: int = 1
    passed: int = 0

    @property
    def whole_s(self) -> float:
        """Seconds of a whole note."""
        return 240.0 / self.tempo

    @property
    def beat_s(self) -> float:
        """Seconds of a beat."""
        return self.whole_s / self.beat_unit

    @property
    def bar_s(self) -> float:
        """Seconds of a bar."""
        return self.beats_per_bar * self.beat_s


@dataclass(frozen=True)
class Marker:
    """A place in the song with a name: a bar, and a beat of it in parts where it is between two, both from 1."""

    bar: int
    beat: float
    text: str


def meter_at(meters: Sequence[Meter], bar: int, beat: float = 1.0) -> Meter:
    """The tempo and meter in force at a beat of a bar, both counted from 1."""
    at = [one for one in meters if (one.bar, one.passed) <= (bar, beat - 1.0)] or meters[:1]
    return at[-1]


def moment_of(meters: Sequence[Meter], bar: int, beat: float) -> float:
    """Seconds at which a beat of a bar is, both counted from 1."""
    meter = meter_at(meters, bar, beat)
    return meter.start_s + ((bar - meter.bar) * meter.beats_per_bar + beat - 1.0 - meter.passed) * meter.beat_s


def place_of(meters: Sequence[Meter], at_s: float) -> tuple[int, float]:
    """The bar and the beat of it, both counted from 1, at a moment; inverse of `moment_of`."""
    at = [one for one in meters if one.start_s <= at_s + 1e-9] or meters[:1]
    meter = at[-1]
    beats = meter.passed + (at_s - meter.start_s) / meter.beat_s
    bars = int(np.floor(beats / meter.beats_per_bar + 1e-9))
    return meter.bar + bars, max(1.0, round(1.0 + beats - bars * meter.beats_per_bar, 6))


def bar_text(meters: Sequence[Meter], at_s: float) -> str:
    """The bar and beat at a moment in words, such as ``12.3``."""
    bar, beat = place_of(meters, at_s)
    return f"{bar}.{int(beat + 1e-4)}"


def tempo_map(first: Meter, changes: Sequence[TempoChange]) -> tuple[Meter, ...]:
    """The meters of a song that begins as `first` and then changes.

    Raises
    ------
    ParameterError
        If changes do not follow each other, or one is out of range; the sentence names it.
    """
    meters = [first]
    for change in changes:
        before = meters[-1]
        _check(change, before)
        beats = (change.bar - before.bar) * before.beats_per_bar + change.beat - 1 - before.passed
        meters.append(Meter(before.start_s + beats * before.beat_s, change.tempo, change.beats_per_bar,
                            change.beat_unit, change.bar, change.beat - 1))  # fmt: skip
    return tuple(meters)


def _check(change: TempoChange, before: Meter) -> None:
    where = f"The change of tempo in bar {change.bar}"
    if (change.bar, change.beat - 1) <= (before.bar, before.passed) or change.bar > MOST_BARS:
        raise ParameterError(f"{where} must come after the one before it, in bar 1 to {MOST_BARS}.")
    in_range(change.tempo, 20.0, 400.0, f"{where}: beats a minute")
    in_range(change.beats_per_bar, 1, 32, f"{where}: beats in a bar")
    if change.beat_unit not in (1, 2, 4, 8, 16):
        raise ParameterError(f"{where}: the beat unit must be 1, 2, 4, 8 or 16.")
    same = (change.beats_per_bar, change.beat_unit) == (before.beats_per_bar, before.beat_unit)
    if change.beat != 1 and not (same and 1 < change.beat <= before.beats_per_bar):
        raise ParameterError(f"{where}: within a bar only the tempo can change, and on a beat of it.")


def grid_lines(meters: tuple[Meter, ...], grid: str, start_s: float, end_s: float, *, swing: float = 0.5) -> Floats:
    """Moments of a grid between two times, rising, shape (n,), in the clock of the meters.

    The first meter also holds before its start, each other one from its start on.  The steps of a grid begin anew with
    every bar; with `swing` every second of them comes later: at that share of the pair.
    """
    found = []
    for number, meter in enumerate(meters):
        until = meters[number + 1].start_s - 1e-6 if number + 1 < len(meters) else np.inf
        since = meter.start_s - 1e-6 if number else -np.inf
        low, high = max(start_s, since), min(end_s, until)
        if low < high:
            lines = _lines_of(meter, grid, low, high, swing)
            found.append(lines[(lines >= low - 1e-9) & (lines <= high + 1e-9)])
    return np.concatenate(found) if found else np.zeros(0)


def _lines_of(meter: Meter, grid: str, low_s: float, high_s: float, swing: float) -> Floats:
    bar_s = meter.start_s - meter.passed * meter.beat_s  # where the bar it begins in would begin at this tempo
    first, last = (int(np.floor((at - bar_s) / meter.bar_s)) for at in (low_s, high_s))
    bars = bar_s + meter.bar_s * np.arange(first, last + 2)
    part = GRIDS[grid]
    step = meter.bar_s if grid == "bar" else meter.beat_s if part is None else float(part) * meter.whole_s
    step = max(step, _SHORTEST_S)
    inside = np.arange(max(1, int(np.ceil(meter.bar_s / step - 1e-9)))) * step
    inside[1::2] += (2.0 * swing - 1.0) * step
    inside = inside[inside < meter.bar_s - 1e-9]
    return (bars[:, None] + inside[None, :]).ravel()
