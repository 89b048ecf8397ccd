"""Where the sound of a voiced run comes from and goes to: all that is decided of it before a sample is rendered."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ...plan.time_map import TimeMap, unmoved
from ...signal.signal_tools import runs
from ...signal.types import HOP_S, Contour, Floats
from .cycle_harmonics import grid_points, window_cycles
from .doubling import by_turns, doubled_cycles
from .marks.back_in_place import place_back
from .marks.pitch_marks import pitch_marks
from .marks.reading_on import read_on
from .marks.synthesis_marks import SynthesisMarks
from .own_breath import how_far
from .steadied import how_steady, steadied_cycles

PART_S = 0.5
_MIN_MARKS = 6
READ_MARGIN_S = 0.12  # several of the longest cycles


@dataclass(frozen=True)
class Run:
    """One voiced run: its frames [first, last), its pitch marks in samples after sample `origin`, after which of them
    cycles differ by turns, and how many samples from `origin` on belong to it."""

    first: int
    last: int
    marks: Floats
    doubled: NDArray[np.bool_]
    origin: int
    length: int


@dataclass(frozen=True)
class Zone:
    """Synthesis marks first..last between which the sound is new, and the grid points of a cycle there."""

    first: int
    last: int
    points: int


@dataclass(frozen=True)
class Layout:
    """What becomes of a run.  Target samples are counted from where the run's origin goes.

    Attributes
    ----------
    placed : SynthesisMarks
        The cycles of the new sound.
    grains : ndarray of int, shape (m,)
        Analysis mark that the breath of each new cycle comes from.
    stays : ndarray, shape (m,)
        How far the upper breath of each new cycle stays where it is instead, 0 to 1.
    steady : ndarray, shape (m,)
        How far the harmonics of each new cycle are smoothed over `steady_cycles`, 0 to 1.
    tract, cycle_hz : ndarray
        At each analysis mark the factor on the resonances, and the frequency as sung.
    window : int
        Cycles that a mean goes over to tell harmonics from breath.
    moved : TimeMap
        What happens to time.
    copies : list of (int, int)
        Half-open ranges of synthesis marks that are the source, displaced.
    zones : list of Zone
        What is rendered.
    low, high : int
        Target samples [low, high) are replaced; none when nothing changes.
    shift : int
        From target samples to those that patches are counted in.
    sample_rate : int
        Hertz.
    """

    run: Run
    placed: SynthesisMarks
    grains: NDArray[np.int64]
    stays: Floats
    steady: Floats
    steady_cycles: int
    tract: Floats
    cycle_hz: Floats
    window: int
    moved: TimeMap
    copies: list[tuple[int, int]]
    zones: list[Zone]
    low: int
    high: int
    shift: int
    sample_rate: int

    @property
    def marks(self) -> Floats:
        """Analysis marks in samples after the run's origin."""
        return self.run.marks

    @property
    def displaced(self) -> list[tuple[int, int]]:
        """The ranges of target samples, counted as patches are, of untouched sound that is not in its place."""
        marks, placed = self.run.marks, self.placed
        found = []
        for a, b in self.copies:
            off = placed.positions[a] - self.moved.to_target(marks[placed.sources[a]])
            if abs(off) >= 0.5:
                found.append((int(placed.positions[a]) + self.shift, int(placed.positions[b - 1]) + self.shift))
        return found

    @property
    def parts(self) -> list[tuple[int, int]]:
        """The ranges of target samples that are rendered one by one."""
        return list(self.parts_over(self.low + self.shift, self.high + self.shift))

    def parts_over(self, begin: int, end: int) -> Iterator[tuple[int, int]]:
        """The parts that meet samples [begin, end), counted as patches are."""
        step = round(PART_S * self.sample_rate)
        first, last = max(begin - self.shift, self.low), min(end - self.shift, self.high)
        for low in range(self.low + (first - self.low) // step * step, last, step):
            yield low, min(low + step, self.high)


def run_samples(first: int, last: int, sample_rate: int, n_samples: int) -> tuple[int, int]:
    """The samples that rendering the run of frames [first, last) reads: the run with a margin."""
    begin = int((first * HOP_S - READ_MARGIN_S) * sample_rate)
    end = int(np.ceil((last * HOP_S + READ_MARGIN_S) * sample_rate))
    return max(0, begin), min(n_samples, end)


def prepare_run(piece: Floats, sample_rate: int, contour: Contour, first: int, last: int, origin: int = 0) -> Run:
    """Find the marks of frames [first, last); `piece`, shape (channels, n), starts at sample `origin`."""
    marks = pitch_marks(piece, sample_rate, contour.midi[first:last], first, origin)
    return Run(first, last, marks, doubled_cycles(piece, marks), origin, piece.shape[1])


def run_map(time_map: TimeMap, first: int, last: int, sample_rate: int) -> tuple[TimeMap, int]:
    """What a map does to the run of frames [first, last), counted from its first sample, and where that goes.

    Two maps that only displace a run give the same map here, so its patches need not be rendered again.
    """
    begin, end = (round(frame * HOP_S * sample_rate) for frame in (first, last))
    return time_map.around(begin, end), round(time_map.to_target(begin))


def lay_out(
    run: Run,
    sample_rate: int,
    correction: Floats,
    *,
    formant: Floats | None = None,
    time_map: TimeMap | None = None,
) -> Layout:
    """What becomes of a run.

    Parameters
    ----------
    run : Run
        From `prepare_run`; all channels share its marks.
    correction : ndarray, shape (n_frames,)
        Tuned minus sung pitch of the whole track in semitones; 0 = untouched.
    formant : ndarray, shape (n_frames,), optional
        Shift of the vocal tract's resonances in semitones; 0 = untouched.
    time_map : TimeMap, optional
        See `run_map`; patches are then counted from where the run's first sample goes.  Without one they are counted
        from the start of the recording.

    Returns
    -------
    Layout
        Without parts when nothing in the run changes or it is too short to have cycles.
    """
    marks = run.marks
    head = round(run.first * HOP_S * sample_rate)
    moved = (time_map or unmoved()).seen_from(run.origin - head)
    shift = run.origin - (head if time_map else 0)
    if len(marks) < _MIN_MARKS:
        nothing = np.zeros(0)
        none = SynthesisMarks(nothing, nothing.astype(np.int64), nothing, nothing, nothing > 0, nothing > 0)
        return Layout(
            run, none, none.sources, nothing, nothing, 1, nothing, nothing, 0, moved, [], [], 0, 0, shift, sample_rate
        )
    ratio = _ratio_at_marks(run, sample_rate, correction)
    tract = np.ones(len(marks)) if formant is None else _ratio_at_marks(run, sample_rate, formant)
    placed = place_back(marks, ratio, sample_rate, fixed=tract == 1.0, time_map=moved)
    zones = [_zone(run, placed, a, b) for a, b in runs(~placed.still)]
    low = int(np.ceil(placed.positions[0]))
    high = int(np.floor(moved.to_target(marks[-1]))) + 1 if zones else low
    grains = read_on(placed.sources, placed.origins, marks, placed.stretched, sample_rate)
    grains = by_turns(grains, placed.origins, marks, run.doubled)
    own = ~placed.stretched & (tract == 1.0)[placed.sources] & ~run.doubled[placed.sources]
    stays = np.where(own, how_far(placed.ratio), 0.0)
    cycle_hz = sample_rate / np.diff(marks, append=2 * marks[-1] - marks[-2])
    steady = how_steady(placed.positions, placed.origins, placed.stretched)
    return Layout(
        run, placed, grains, stays, steady, steadied_cycles(cycle_hz), tract, cycle_hz, window_cycles(cycle_hz), moved,
        runs(placed.still), zones, low, high, shift, sample_rate,
    )  # fmt: skip


def _zone(run: Run, placed: SynthesisMarks, a: int, b: int) -> Zone:
    """Synthesis marks a..b with one more mark on each side where there is one."""
    first, last = max(a - 1, 0), min(b + 1, len(placed.positions) - 1)
    sources = placed.sources[first : last + 1]
    lowest, highest = max(int(sources.min()) - 2, 0), min(int(sources.max()) + 2, len(run.marks) - 1)
    return Zone(first, last, grid_points(run.marks[lowest : highest + 1]))


def _ratio_at_marks(run: Run, sample_rate: int, correction: Floats) -> Floats:
    """Frequency ratio for the cycle after each mark; exactly 1 where the frames around it are untouched."""
    marks = run.marks + run.origin
    middle = np.append((marks[:-1] + marks[1:]) / 2, marks[-1])
    low, high = max(0, run.first - 2), run.last + 2
    near = correction[low:high]
    ratio = np.exp2(np.interp(middle / sample_rate / HOP_S - low, np.arange(len(near)), near) / 12.0)
    return np.where(np.abs(ratio - 1.0) < 1e-7, 1.0, ratio)
