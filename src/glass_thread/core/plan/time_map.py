"""Where the samples of a take go when time is edited: rigid pieces, stretched vowels, joins in silence and breath."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..document.time.stretches import Stretch
from ..signal.types import Floats

_FAR = 1 << 36


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

    def __post_init__(self) -> None:
        """Close both for writing: all maps are then of one kind to what is compiled for them."""
        self.source.flags.writeable = self.target.flags.writeable = False

    @property
    def moves(self) -> bool:
        """True when anything is displaced or stretched."""
        return len(self.source) > 3

    def to_target(self, position: float) -> float:
        """Where source sample `position` goes."""
        return float(np.interp(position, self.source, self.target))

    def to_source(self, positions: Floats) -> Floats:
        """The source samples that come to lie at target samples `positions`."""
        return np.interp(positions, self.target, self.source)

    def shift_at(self, position: float) -> int:
        """Whole samples by which a rigid piece around source `position` is displaced."""
        return round(self.to_target(position) - position)

    def around(self, begin: int, end: int) -> TimeMap:
        """The map of source samples [begin, end), both counted from `begin` and from where `begin` goes."""
        first = max(0, int(np.searchsorted(self.source, begin, side="right")) - 1)
        last = min(len(self.source) - 1, int(np.searchsorted(self.source, end, side="left")))
        inner = self.source[first + 1 : last]
        source = np.concatenate(([begin], inner[inner > begin], [end]))
        target = np.round(np.interp(source, self.source, self.target)).astype(np.int64)
        if (np.diff(source) == np.diff(target)).all():
            return unmoved()
        whole_source = np.concatenate(([-_FAR], source - begin, [_FAR]))
        whole_target = target - target[0]
        tail = _FAR - (end - begin) + whole_target[-1]
        return TimeMap(whole_source, np.concatenate(([-_FAR], whole_target, [tail])))

    def seen_from(self, origin: int) -> TimeMap:
        """The same map for samples that are counted from `origin` on both sides."""
        return TimeMap(self.source - origin, self.target - origin) if self.moves else self

    @property
    def fingerprint(self) -> tuple[bytes, bytes]:
        """What tells maps apart."""
        return self.source.tobytes(), self.target.tobytes()

    def pieces(self, begin: int, end: int) -> list[tuple[int, int, int, int]]:
        """Source and target ranges (a, b, from, to) of the pieces that meet target samples [begin, end)."""
        first = max(0, int(np.searchsorted(self.target, begin, side="right")) - 1)
        last = int(np.searchsorted(self.target, end, side="left"))
        return [(int(self.source[i]), int(self.source[i + 1]), int(self.target[i]), int(self.target[i + 1]))
                for i in range(first, min(last, len(self.source) - 1))]  # fmt: skip


@lru_cache(maxsize=1)
def unmoved() -> TimeMap:
    """The map that moves nothing."""
    ends = np.array([-_FAR, 0, _FAR], dtype=np.int64)
    return TimeMap(ends, ends)


def sample_map(stretches: tuple[Stretch, ...], sample_rate: int) -> TimeMap:
    """The map of a take in which some stretches change their length and all else is displaced by whole samples.

    Lengths are rounded so that no error adds up: every rigid piece lies within half a sample of its place.
    """
    if not stretches:
        return unmoved()
    starts, ends, added = (
        np.array([getattr(stretch, name) for stretch in stretches]) for name in ("start_s", "end_s", "added_s")
    )
    shifts = np.round(np.cumsum(added) * sample_rate).astype(np.int64)
    begin, end = (np.round(at * sample_rate).astype(np.int64) for at in (starts, ends))
    before = np.concatenate(([0], shifts[:-1]))
    source = np.concatenate(([0], np.stack((begin, end), axis=1).ravel()))
    target = np.concatenate(([0], np.stack((begin + before, end + shifts), axis=1).ravel()))
    fresh = np.append(True, np.diff(source) > 0)
    source, target = source[fresh], target[fresh]
    ends_source = np.concatenate(([-_FAR], source, [_FAR]))
    return TimeMap(ends_source, np.concatenate(([-_FAR], target, [_FAR + int(shifts[-1])])))
