"""Where the items of one kind lie, so that those near a moment are found without looking at all of them."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import cached_property
from typing import Generic, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

from ..signal.types import HOP_S, Floats


class Spanned(Protocol):
    """Something that lies in a stretch of the recording."""

    @property
    def span_s(self) -> tuple[float, float]:
        """Start and end in seconds."""
        ...


Item = TypeVar("Item", bound=Spanned)


class Places(Generic[Item]):
    """Items of a mapping in its order, with the seconds of their starts and ends, shape (n,) each."""

    def __init__(self, items: Mapping[str, Item]) -> None:
        self._ids = items.keys()
        self.items: list[Item] = list(items.values())
        spans = np.array([one.span_s for one in self.items]).reshape(-1, 2)
        self.starts: Floats = spans[:, 0]
        self.ends: Floats = spans[:, 1]

    @cached_property
    def _numbers(self) -> dict[str, int]:
        return {key: number for number, key in enumerate(self._ids)}

    def numbers_of(self, ids: Iterable[str]) -> list[int]:
        """The numbers in `items` of those ids that are among them."""
        return [self._numbers[key] for key in ids if key in self._numbers]

    def frames(self, n_frames: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """Half-open frame ranges on the analysis grid, as `gestures.note_frames` gives them of one."""
        return np.rint(self.starts / HOP_S).astype(np.int64), np.minimum(
            n_frames, np.rint(self.ends / HOP_S).astype(np.int64)
        )

    def numbers_in(self, start_s: float, end_s: float) -> NDArray[np.int64]:
        """The numbers in `items` of those that reach into a stretch, by more than their ends."""
        return np.flatnonzero((self.ends > start_s) & (self.starts < end_s))

    def near(self, start_s: float, end_s: float) -> list[Item]:
        """Items that reach into a stretch, in their order."""
        return [self.items[i] for i in self.numbers_in(start_s, end_s)]
