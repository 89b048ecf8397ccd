"""The sound of a zone of a run: its harmonics at their new frequencies, and its breath."""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray

from ...signal.interpolation import read_between
from ...signal.types import Floats
from ..placing import Read
from .cycle_harmonics import cycle_grid, measure_harmonics, play_cycles
from .cycles import cycle_phase
from .harmonic_swap import swap_harmonics
from .layout import READ_MARGIN_S, Layout, Zone
from .noise_shares import noise_shares
from .overlap_add import overlap_add
from .own_breath import NEAR_MARKS, breathless, lower_part
from .steadied import steadied

_NEAR_NEW = 6  # new marks on either side of a part that have a share in it
_NEAR = 2  # marks more of what they come from


@dataclass(frozen=True)
class _Here:
    """What target samples [begin, end) of a zone are made from.

    Attributes
    ----------
    of : slice
        New marks with a share in it.
    lowest, highest : int
        Analysis marks that are read.
    at, stop : int
        Source samples that are read.
    """

    layout: Layout
    zone: Zone
    begin: int
    end: int
    of: slice
    lowest: int
    highest: int
    at: int
    stop: int


def zone_samples(read: Read, layout: Layout, zone: Zone, begin: int, end: int, source_share: float) -> Floats:
    """Target samples [begin, end) of a zone, shape (channels, end - begin).

    Parameters
    ----------
    read : callable
        `read(a, b)` gives samples [a, b) of the source from the run's origin on, shape (channels, b - a).
    source_share : float
        See `swap_harmonics`.
    """
    here = _look(layout, zone, begin, end)
    return np.stack(_sound(read(here.at, here.stop), here, source_share))


def _look(layout: Layout, zone: Zone, begin: int, end: int) -> _Here:
    placed, marks = layout.placed, layout.marks
    first = max(zone.first, int(np.searchsorted(placed.positions, begin)) - _NEAR_NEW)
    last = min(zone.last, int(np.searchsorted(placed.positions, end)) + _NEAR_NEW)
    of = slice(first, last + 1)
    sources, grains = placed.sources[of], layout.grains[of]
    more = _NEAR + (NEAR_MARKS if layout.stays[of].any() else 0)
    if layout.steady[of].any():
        more += layout.steady_cycles // 2
    lowest = max(min(int(sources.min()), int(grains.min())) - more, 0)
    highest = min(max(int(sources.max()), int(grains.max())) + more, len(marks) - 1)
    around = round(READ_MARGIN_S * layout.sample_rate)
    at, stop = max(0, int(marks[lowest]) - around), min(layout.run.length, int(marks[highest]) + around)
    return _Here(layout, zone, begin, end, of, lowest, highest, at, stop)


def _sound(channels: Floats, here: _Here, source_share: float) -> list[Floats]:
    """Each channel's sound."""
    layout, placed, points = here.layout, here.layout.placed, here.zone.points
    own = layout.marks - here.at
    n = np.arange(here.begin, here.end, dtype=np.float64)
    new_phase = cycle_phase(placed.positions, n) - here.of.start
    near = np.arange(int(own[here.lowest]), int(np.ceil(own[here.highest])) + 1, dtype=np.float64)
    old_phase = cycle_phase(own, near) - here.lowest
    position = np.interp(placed.origins[here.of], layout.marks, np.arange(len(own))) - here.lowest
    grid = cycle_grid(own, here.lowest, here.highest, points, layout.window)
    stays = layout.stays[here.of]
    sources = placed.sources[here.of]
    rows: list[Floats] = []
    for channel in channels:
        found = measure_harmonics(channel, grid)
        rest = channel[int(near[0]) : int(near[-1]) + 1] - play_cycles(found, points, old_phase)
        if stays.any():
            beside = read_between(rest, (grid.own - near[0]).ravel()).reshape(len(found), points)
            share = np.interp(np.arange(len(found)), position, stays)
            rates = layout.cycle_hz[here.lowest : here.highest + 1]
            found = found * breathless(found, beside, rates, share, noise_shares(layout.window))
        swapped = swap_harmonics(
            _in_new_cycles(found, position, here),
            placed.ratio[here.of],
            formant=layout.tract[sources],
            cycle_hz=layout.cycle_hz[sources],
            nyquist_hz=layout.sample_rate / 2,
            source_share=source_share,
        )
        rows.append(play_cycles(swapped, points, new_phase) + _breath(rest, here.at + near[0], here, n))
    return rows


def _breath(rest: Floats, begin: float, here: _Here, n: Floats) -> Floats:
    """What is beside the harmonics, `rest` from source sample `begin` on, at target samples `n`."""
    layout, placed, of = here.layout, here.layout.placed, here.of
    positions, grains, stays = placed.positions[of], layout.grains[of], layout.stays[of]
    noise = noise_shares(layout.window)
    # Grains that come more often add up: the breath stays as strong as it was.
    thinned = noise.make_up * np.interp(n, positions, placed.ratio[of]) ** -0.5
    targets, scales, marks = positions - here.begin, layout.tract[grains], layout.marks - begin

    def in_grains(x: Floats) -> Floats:
        return np.asarray(thinned * overlap_add(x, marks, grains, targets, scales, len(n)))

    breath = in_grains(rest)
    if not stays.any():
        return breath
    upper = rest - lower_part(rest, layout.sample_rate)
    in_place = read_between(upper, np.interp(n, positions, placed.origins[of]) - begin)
    share = np.interp(n, positions, stays)  # of the power, as the two have little in common
    return np.asarray(
        breath + np.sqrt(share) * noise.make_up_alone * in_place - (1.0 - np.sqrt(1.0 - share)) * in_grains(upper)
    )


def _in_new_cycles(found: NDArray[np.complex128], position: Floats, here: _Here) -> NDArray[np.complex128]:
    """The harmonics of each new cycle before their frequencies change."""
    layout = here.layout
    share = layout.steady[here.of]
    as_found = _between_marks(found, position)
    if not share.any():
        return as_found
    smooth = _between_marks(steadied(found, layout.steady_cycles), position)
    return np.asarray(as_found + share[:, None] * (smooth - as_found))


def _between_marks(spectrum: NDArray[np.complex128], position: Floats) -> NDArray[np.complex128]:
    """Harmonics at fractional mark numbers."""
    out = np.empty((len(position), spectrum.shape[1]), dtype=np.complex128)
    _interpolate_rows(spectrum, position, out)
    return out


@numba.njit(cache=True, nogil=True)
def _interpolate_rows(rows, at, out):  # pragma: no cover - compiled
    for j in range(len(at)):
        below = min(max(int(at[j]), 0), len(rows) - 2)
        share = min(max(at[j] - below, 0.0), 1.0)
        for k in range(rows.shape[1]):
            out[j, k] = rows[below, k] * (1.0 - share) + rows[below + 1, k] * share
