"""Render a track with a pitch correction; what is not touched is the source, sample for sample.

A voiced run is the unit of work: its patch depends on nothing but the run, so
any span of the result is a slice of the same patches and the source.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..plan.time_map import TimeMap, unmoved
from ..signal.signal_tools import runs
from ..signal.types import HOP_S, Contour, Floats
from .doubling import by_turns, doubled_cycles
from .harmonic_swap import SOURCE_SHARE, grid_points, measure_harmonics, play_cycles, swap_harmonics
from .overlap_add import overlap_add
from .pitch_marks import cycle_phase, pitch_marks
from .placing import placed as placed_source
from .reading_on import read_on
from .synthesis_marks import SynthesisMarks, place_marks

NOISE_MAKE_UP = 1.2  # the cycle mean takes part of the breath noise along; this puts its power back
_MIN_MARKS = 6
_READ_MARGIN_S = 0.12  # several of the longest cycles


@dataclass(frozen=True)
class Run:
    """One voiced run: its frames [first, last), and its pitch marks in samples after sample `origin`."""

    first: int
    last: int
    marks: Floats
    origin: int = 0


@dataclass(frozen=True)
class Patch:
    """Replacement samples, shape (channels, n), from sample `begin` on."""

    begin: int
    samples: Floats

    @property
    def end(self) -> int:
        """One past the last replaced sample."""
        return self.begin + self.samples.shape[1]

    def moved_by(self, samples: int) -> Patch:
        """The same samples later."""
        return Patch(self.begin + samples, self.samples)


def voiced_runs(contour: Contour) -> list[tuple[int, int]]:
    """Half-open frame ranges between breaks in voicing."""
    return runs(contour.voiced)


def run_samples(first: int, last: int, sample_rate: int, n_samples: int) -> tuple[int, int]:
    """The samples that rendering the run of frames [first, last) reads: the run with a margin."""
    begin = int((first * HOP_S - _READ_MARGIN_S) * sample_rate)
    end = int(np.ceil((last * HOP_S + _READ_MARGIN_S) * sample_rate))
    return max(0, begin), min(n_samples, end)


def prepare_run(piece: Floats, sample_rate: int, contour: Contour, first: int, last: int, origin: int = 0) -> Run:
    """Find the marks of frames [first, last); `piece`, shape (channels, n), starts at sample `origin`."""
    return Run(first, last, pitch_marks(piece, sample_rate, contour.midi[first:last], first, origin), origin)


def run_map(time_map: TimeMap, first: int, last: int, sample_rate: int) -> tuple[TimeMap, int]:
    """What a map does to the run of frames [first, last), counted from its first sample, and where that goes.

    Two maps that only displace a run give the same map here, so its patches need not be rendered again.
    """
    begin, end = (round(frame * HOP_S * sample_rate) for frame in (first, last))
    return time_map.around(begin, end), round(time_map.to_target(begin))


def render_run(
    piece: Floats,
    sample_rate: int,
    run: Run,
    correction: Floats,
    *,
    formant: Floats | None = None,
    time_map: TimeMap | None = None,
    source_share: float = SOURCE_SHARE,
) -> list[Patch]:
    """Patches of one run.

    Parameters
    ----------
    piece : ndarray, shape (channels, n)
        The source from the run's origin on, at least as far as `run_samples` says.
    run : Run
        From `prepare_run` with the same piece; all channels share its marks.
    correction : ndarray, shape (n_frames,)
        Tuned minus sung pitch of the whole track in semitones; 0 = untouched.
    formant : ndarray, shape (n_frames,), optional
        Shift of the vocal tract's resonances in semitones; 0 = untouched.
    time_map : TimeMap, optional
        See `run_map`; patches are then counted from where the run's first sample goes.  Without one they are counted
        from the start of the recording.
    source_share : float
        See `swap_harmonics`.

    Returns
    -------
    list of Patch
        Empty when nothing in the run changes or it is too short to have cycles.
    """
    marks = run.marks
    if len(marks) < _MIN_MARKS:
        return []
    ratio = _ratio_at_marks(marks + run.origin, sample_rate, correction)
    tract = np.ones(len(marks)) if formant is None else _ratio_at_marks(marks + run.origin, sample_rate, formant)
    head = round(run.first * HOP_S * sample_rate)
    moved = (time_map or unmoved()).seen_from(run.origin - head)
    placed = place_marks(marks, ratio, fixed=tract == 1.0, time_map=moved)
    if placed.still.all():
        return []
    low = int(np.ceil(placed.positions[0]))
    out = _rigid_frame(piece, marks, moved, low, int(np.floor(moved.to_target(marks[-1]))) + 1)
    for a, b in runs(placed.still):
        _copy_displaced(out, piece, low, marks, placed, moved, a, b)
    for a, b in runs(~placed.still):
        begin, samples = _render_zone(piece, sample_rate, marks, placed, tract, a, b, source_share)
        _fade_in_zone(out, low, begin, samples, placed, a, b)
    return [Patch(run.origin + low - (head if time_map else 0), out)]


def _rigid_frame(audio: Floats, marks: Floats, moved: TimeMap, low: int, high: int) -> Floats:
    """Target samples [low, high) of a run before anything is rendered: the source as its two ends are displaced."""
    out = np.zeros((audio.shape[0], high - low))
    middle = (high - low) // 2
    for a, b, mark in ((0, middle, marks[0]), (middle, high - low, marks[-1])):
        at = low - moved.shift_at(mark)
        first, last = max(a, -at), min(b, audio.shape[1] - at)
        out[:, first:last] = audio[:, at + first : at + last]
    return out


def _ratio_at_marks(marks: Floats, sample_rate: int, correction: Floats) -> Floats:
    """Frequency ratio for the cycle after each mark; exactly 1 where the frames around it are untouched."""
    middle = np.append((marks[:-1] + marks[1:]) / 2, marks[-1])
    frame = middle / sample_rate / HOP_S
    ratio = np.exp2(np.interp(frame, np.arange(len(correction)), correction) / 12.0)
    return np.where(np.abs(ratio - 1.0) < 1e-7, 1.0, ratio)


def _copy_displaced(
    out: Floats, audio: Floats, low: int, marks: Floats, placed: SynthesisMarks, moved: TimeMap, a: int, b: int
) -> None:
    """An untouched stretch after a change is the source, displaced by whole samples until the run ends."""
    shift = round(placed.positions[a] - marks[placed.sources[a]])
    end_shift = moved.shift_at(marks[-1])
    last = b == len(placed.positions)
    if last and shift == end_shift:
        last = False
    begin = int(placed.positions[max(a - 1, 0)])
    end = low + out.shape[1] if b == len(placed.positions) else int(placed.positions[b]) + 1
    begin = max(begin, low, shift, end_shift if last else 0)
    end = min(end, audio.shape[1] + shift, audio.shape[1] + end_shift if last else end)
    copied = audio[:, begin - shift : end - shift]
    if last:  # back to its place before the run ends
        period = marks[-1] - marks[-2]
        weight = np.clip((end - np.arange(begin, end)) / (1.5 * period), 0.0, 1.0)
        copied = weight * copied + (1.0 - weight) * audio[:, begin - end_shift : end - end_shift]
    out[:, begin - low : end - low] = copied


def _render_zone(
    audio: Floats, sample_rate: int, marks: Floats, placed: SynthesisMarks, tract: Floats, a: int, b: int,
    source_share: float,
) -> tuple[int, Floats]:  # fmt: skip
    """Sound of synthesis marks a..b with one more mark on each side where there is one."""
    first, last = max(a - 1, 0), min(b + 1, len(placed.positions) - 1)
    here = slice(first, last + 1)
    begin, end = int(np.ceil(placed.positions[first])), int(np.floor(placed.positions[last]))
    sources = placed.sources[here]
    breath = read_on(sources, placed.origins[here], marks, placed.stretched[here], sample_rate)
    lowest, highest = max(int(sources.min()) - 2, 0), min(int(sources.max()) + 2, len(marks) - 1)
    old_hz = sample_rate / np.diff(marks, append=2 * marks[-1] - marks[-2])
    points = grid_points(marks[lowest : highest + 1])
    n = np.arange(begin, end + 1, dtype=np.float64)
    new_phase = cycle_phase(placed.positions, n) - first
    near = np.arange(int(marks[lowest]), int(np.ceil(marks[highest])) + 1, dtype=np.float64)
    old_phase = cycle_phase(marks, near) - lowest
    position = np.interp(placed.origins[here], marks, np.arange(len(marks))) - lowest
    # Grains that come more often add up: the breath stays as strong as it was.
    thinned = np.interp(n, placed.positions[here], placed.ratio[here]) ** -0.5
    rows = []
    for channel in audio:
        found = measure_harmonics(channel, marks, lowest, highest, points)
        rest = channel[int(near[0]) : int(near[-1]) + 1] - play_cycles(found.spectrum, points, old_phase)
        swapped = swap_harmonics(
            _between_marks(found.spectrum, position),
            placed.ratio[here],
            formant=tract[sources],
            cycle_hz=old_hz[sources],
            nyquist_hz=sample_rate / 2,
            source_share=source_share,
        )
        doubled = np.zeros(len(marks), dtype=bool)
        doubled[lowest : highest + 1] = doubled_cycles(rest, marks[lowest : highest + 1] - near[0])
        turns = by_turns(breath, placed.origins[here], marks, doubled)
        grains = overlap_add(rest, marks - near[0], turns, placed.positions[here] - begin, tract[turns], len(n))
        rows.append(play_cycles(swapped, points, new_phase) + NOISE_MAKE_UP * thinned * grains)
    return begin, np.stack(rows)


def _between_marks(spectrum: NDArray[np.complex128], position: Floats) -> NDArray[np.complex128]:
    """Harmonics at fractional mark numbers."""
    below = np.clip(position.astype(np.int64), 0, len(spectrum) - 2)
    share = np.clip(position - below, 0.0, 1.0)[:, None]
    return spectrum[below] * (1.0 - share) + spectrum[below + 1] * share


def _fade_in_zone(out: Floats, low: int, begin: int, samples: Floats, placed: SynthesisMarks, a: int, b: int) -> None:
    """Put a zone into the run; it blends with what is there over one cycle at each end."""
    length = samples.shape[1]
    first, last = max(a - 1, 0), min(b + 1, len(placed.positions) - 1)
    head = placed.positions[first + 1] - placed.positions[first]
    tail = placed.positions[last] - placed.positions[last - 1]
    index = np.arange(length)
    weight = np.clip(index / max(head, 1.0), 0.0, 1.0) * np.clip((length - 1 - index) / max(tail, 1.0), 0.0, 1.0)
    at = begin - low
    old = out[:, at : at + length]
    out[:, at : at + length] = old + weight * (samples - old)


def apply_patches(source: Floats, patches: list[Patch], begin: int) -> Floats:
    """The `source`, shape (channels, n) from sample `begin` on, with the patches laid over it; a new array."""
    result = np.array(source, dtype=np.float64)
    for patch in patches:
        low, high = max(begin, patch.begin), min(begin + source.shape[1], patch.end)
        if low < high:
            result[:, low - begin : high - begin] = patch.samples[:, low - patch.begin : high - patch.begin]
    return result


def render_whole(
    audio: Floats,
    sample_rate: int,
    contour: Contour,
    correction: Floats,
    *,
    formant: Floats | None = None,
    time_map: TimeMap | None = None,
    source_share: float = SOURCE_SHARE,
) -> Floats:
    """The whole track with its changes, shape (channels, n); arguments as for `render_run`, the map of the track."""
    moved = time_map or unmoved()
    n = audio.shape[1]
    out = placed_source(lambda a, b: audio[:, a:b], n, moved, 0, round(moved.to_target(n)), sample_rate)
    for first, last in voiced_runs(contour):
        asked = correction[first:last].any() or (formant is not None and formant[first:last].any())
        if asked or moved.moves:
            begin, end = run_samples(first, last, sample_rate, n)
            piece = audio[:, begin:end]
            run = prepare_run(piece, sample_rate, contour, first, last, begin)
            inner, at = run_map(moved, first, last, sample_rate)
            for patch in render_run(
                piece, sample_rate, run, correction, formant=formant, time_map=inner, source_share=source_share
            ):
                out[:, at + patch.begin : at + patch.end] = patch.samples
    return out
