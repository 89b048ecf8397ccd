"""Where the samples of a take go when time is edited: rigid pieces, and stretched ones inside voiced runs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..signal.errors import ParameterError
from ..signal.signal_tools import runs
from ..signal.types import HOP_S, AirEvent, Contour, Floats
from ..signal.validation import in_range

MIN_STRETCH, MAX_STRETCH = 0.25, 4.0
_KEPT_EDGE_S = 0.015  # of a voiced run stays rigid, so that the way into air is not bent
_FAR = 1 << 40


@dataclass(frozen=True)
class TimeMap:
    """A continuous, increasing, piecewise linear map between whole samples.

    Attributes
    ----------
    source, target : ndarray of int64, shape (k,)
        Corresponding sample positions before and after; beyond the ends the map is rigid.
    """

    source: NDArray[np.int64]
    target: NDArray[np.int64]

    def to_target(self, position: float) -> float:
        """Where source sample `position` goes."""
        return float(np.interp(position, self.source, self.target))

    def shift_at(self, position: float) -> int:
        """Whole samples by which a rigid piece around source `position` is displaced."""
        return round(self.to_target(position) - position)

    def seen_from(self, origin: int) -> TimeMap:
        """The same map for samples that are counted from source sample `origin`; targets are counted from there too."""
        return TimeMap(self.source - origin, self.target - origin)

    @property
    def added(self) -> int:
        """Samples by which the take grows."""
        return int(self.target[-2] - self.source[-2])


@lru_cache(maxsize=1)
def unmoved() -> TimeMap:
    """The map that moves nothing."""
    ends = np.array([-_FAR, 0, _FAR], dtype=np.int64)
    ends.flags.writeable = False
    return TimeMap(ends, ends)


def stretch_map(
    contour: Contour, air: Sequence[AirEvent], stretches: Sequence[tuple[float, float, float]], sample_rate: int
) -> TimeMap:
    """Map that makes stretches of time longer or shorter by changing their vowels only.

    Parameters
    ----------
    contour : Contour
        The sung pitch; unvoiced frames keep their length.
    air : sequence of AirEvent
        Sibilants, consonants and breaths keep their length and samples.
    stretches : sequence of (start_s, end_s, factor)
        What to stretch, not overlapping; all that follows moves along.
    sample_rate : int
        Hertz.

    Raises
    ------
    ParameterError
        If stretches overlap, a factor is out of range, or there is no vowel that could make up the wanted length.
    """
    points: list[tuple[int, int]] = [(-_FAR, -_FAR), (0, 0)]
    shift, reached = 0, 0.0
    for start_s, end_s, factor in sorted(stretches):
        in_range(factor, MIN_STRETCH, MAX_STRETCH, "The stretch")
        if end_s <= start_s or start_s < reached:
            raise ParameterError("Stretches must not overlap or be empty.")
        reached = end_s
        soft = _soft_pieces(contour, air, start_s, end_s, sample_rate)
        length = sum(b - a for a, b in soft)
        wanted = length + (factor - 1.0) * (end_s - start_s) * sample_rate
        if not length or not MIN_STRETCH / 2 <= wanted / length <= MAX_STRETCH * 2:
            raise ParameterError("There is too little vowel in this note for that length.")
        for a, b in soft:
            points.append((a, a + shift))
            shift += round((wanted / length - 1.0) * (b - a))
            points.append((b, b + shift))
    end = points[-1]
    points += [(end[0] + 1, end[1] + 1), (_FAR, _FAR + shift)]
    table = np.array(sorted(set(points)), dtype=np.int64)
    return TimeMap(table[:, 0].copy(), table[:, 1].copy())


def _soft_pieces(
    contour: Contour, air: Sequence[AirEvent], start_s: float, end_s: float, sample_rate: int
) -> list[tuple[int, int]]:
    """Sample ranges between `start_s` and `end_s` that may change their length: voiced, no air, off the edges."""
    soft = contour.voiced.copy()
    times = contour.times
    for event in air:
        soft[(times > event.start_s - HOP_S) & (times < event.end_s + HOP_S)] = False
    edge = int(_KEPT_EDGE_S / HOP_S)
    soft = np.convolve(soft, np.ones(2 * edge + 1), "same") >= 2 * edge + 1
    soft &= (times >= start_s) & (times < end_s)
    return [(round(a * HOP_S * sample_rate), round((b - 1) * HOP_S * sample_rate)) for a, b in runs(soft) if b - a > 2]


def move_rigid_pieces(audio: Floats, time_map: TimeMap) -> Floats:
    """The take with its rigid pieces in their new places, silence where vowels will be rendered."""
    out = np.zeros((audio.shape[0], audio.shape[1] + time_map.added))
    for i in range(len(time_map.source) - 1):
        a, b = max(int(time_map.source[i]), 0), min(int(time_map.source[i + 1]), audio.shape[1])
        at = int(time_map.target[i]) + a - int(time_map.source[i])
        rigid = time_map.target[i + 1] - time_map.target[i] == time_map.source[i + 1] - time_map.source[i]
        if rigid and a < b:
            out[:, at : at + b - a] = audio[:, a:b]
    return out
