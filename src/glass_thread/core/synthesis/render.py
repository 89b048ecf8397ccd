"""Render a track with a pitch correction; what is not touched is the source, sample for sample.

A voiced run is laid out as a whole and rendered part by part: a part depends on nothing but the run and its number, so
any span of the result is a slice of the same parts and the source.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..plan.time_map import TimeMap, unmoved
from ..signal.signal_tools import runs
from ..signal.types import Contour, Floats
from .placing import Read
from .placing import placed as placed_source
from .voice.harmonic_swap import SOURCE_SHARE
from .voice.layout import Layout, Zone, lay_out, prepare_run, run_map, run_samples
from .voice.zone_sound import zone_samples


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


def render_part(read: Read, layout: Layout, part: tuple[int, int], *, source_share: float = SOURCE_SHARE) -> Patch:
    """One of the parts of a run.

    Parameters
    ----------
    read : callable
        `read(a, b)` gives samples [a, b) of the source from the run's origin on, shape (channels, b - a).
    layout : Layout
        Of the run, with what is asked of it.
    part : tuple of int
        One of `layout.parts`.
    source_share : float
        See `swap_harmonics`.
    """
    begin, end = part
    out = _rigid_frame(read, layout, begin, end)
    for copy in layout.copies:
        _copy_displaced(out, read, layout, copy, begin)
    for zone in layout.zones:
        _lay_zone(out, read, layout, zone, begin, source_share)
    return Patch(begin + layout.shift, out)


def render_run(piece: Floats, layout: Layout, *, source_share: float = SOURCE_SHARE) -> list[Patch]:
    """All parts of a run; `piece`, shape (channels, n), is the source from the run's origin on."""

    def read(a: int, b: int) -> Floats:
        return piece[:, a:b]

    return [render_part(read, layout, part, source_share=source_share) for part in layout.parts]


def _rigid_frame(read: Read, layout: Layout, begin: int, end: int) -> Floats:
    """Target samples [begin, end) of a run before anything is rendered: the source as its two ends are displaced."""
    out = np.zeros((read(0, 0).shape[0], end - begin))
    middle = layout.low + (layout.high - layout.low) // 2
    for a, b, mark in ((layout.low, middle, layout.marks[0]), (middle, layout.high, layout.marks[-1])):
        shift = layout.moved.shift_at(mark)
        first, last = max(a, begin, shift), min(b, end, layout.run.length + shift)
        if first < last:
            out[:, first - begin : last - begin] = read(first - shift, last - shift)
    return out


def _copy_displaced(out: Floats, read: Read, layout: Layout, copy: tuple[int, int], part: int) -> None:
    """An untouched stretch after a change is the source, displaced by whole samples until the run ends.

    `out` begins at target sample `part`.
    """
    (a, b), placed, marks, n = copy, layout.placed, layout.marks, layout.run.length
    shift = round(placed.positions[a] - marks[placed.sources[a]])
    end_shift = layout.moved.shift_at(marks[-1])
    reaches_end = b == len(placed.positions)
    goes_back = reaches_end and shift != end_shift
    begin = max(int(placed.positions[max(a - 1, 0)]), layout.low, shift, end_shift if goes_back else 0)
    end = layout.high if reaches_end else int(placed.positions[b]) + 1
    end = min(end, n + shift, n + end_shift if goes_back else end)
    first, last = max(begin, part), min(end, part + out.shape[1])
    if first >= last:
        return
    copied = read(first - shift, last - shift)
    if goes_back:  # to its place before the run ends
        weight = np.clip((end - np.arange(first, last)) / (1.5 * (marks[-1] - marks[-2])), 0.0, 1.0)
        copied = weight * copied + (1.0 - weight) * read(first - end_shift, last - end_shift)
    out[:, first - part : last - part] = copied


def _lay_zone(out: Floats, read: Read, layout: Layout, zone: Zone, part: int, source_share: float) -> None:
    """Put what `out`, from target sample `part` on, has of a zone into it, blended over a cycle at the zone's ends."""
    positions = layout.placed.positions
    begin, end = int(np.ceil(positions[zone.first])), int(np.floor(positions[zone.last])) + 1
    first, last = max(begin, part), min(end, part + out.shape[1])
    if first >= last:
        return
    head = positions[zone.first + 1] - positions[zone.first]
    tail = positions[zone.last] - positions[zone.last - 1]
    at = np.arange(first, last)
    weight = np.clip((at - begin) / max(head, 1.0), 0.0, 1.0) * np.clip((end - 1 - at) / max(tail, 1.0), 0.0, 1.0)
    old = out[:, first - part : last - part]
    made = zone_samples(read, layout, zone, first, last, source_share)
    out[:, first - part : last - part] = old + weight * (made - old)


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
    """The whole track with its changes, shape (channels, n).

    Parameters
    ----------
    audio : ndarray, shape (channels, n)
        The recording.
    correction, formant : ndarray, shape (n_frames,)
        See `lay_out`.
    time_map : TimeMap, optional
        Of the track; nothing is moved unless given.
    source_share : float
        See `swap_harmonics`.
    """
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
            layout = lay_out(run, sample_rate, correction, formant=formant, time_map=inner)
            for patch in render_run(piece, layout, source_share=source_share):
                out[:, at + patch.begin : at + patch.end] = patch.samples
    return out
