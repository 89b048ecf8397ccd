"""A recording in places of which another sound is laid."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..document.items.borrows import Law
from ..signal.recording import Recording
from ..signal.types import Floats
from .joins import joined


@dataclass(frozen=True, eq=False)
class Piece:
    """Samples, shape (channels, n), from sample `begin` of the recording on; `name` tells pieces apart.

    Over its first `fade_in` and last `fade_out` samples it passes into the recording, by the laws named.
    """

    begin: int
    samples: Floats
    fade_in: int
    fade_out: int
    laws: tuple[Law, Law]
    name: str

    @property
    def end(self) -> int:
        """One past its last sample."""
        return self.begin + self.samples.shape[1]

    def reaches(self, begin: int, end: int) -> bool:
        """True when something of it is heard in samples [begin, end)."""
        return self.begin < end and self.end > begin


class LaidIn:
    """A recording with pieces laid over it, the later over the earlier; a recording itself."""

    def __init__(self, recording: Recording, pieces: Sequence[Piece]) -> None:
        self._recording, self._pieces = recording, tuple(pieces)
        self.sample_rate, self.channels, self.frames = recording.sample_rate, recording.channels, recording.frames

    def over(self, begin: int, end: int) -> list[Piece]:
        """The pieces that are heard in samples [begin, end)."""
        return [piece for piece in self._pieces if piece.reaches(begin, end)]

    def read(self, begin: int, end: int) -> Floats:
        """Samples [begin, end), shape (channels, end - begin)."""
        own = self._recording.read(begin, end)
        pieces = self.over(begin, end)
        if not pieces:
            return own
        out = own.copy()
        for piece in pieces:
            _lay(out, piece, begin)
        return out

    def own(self, begin: int, end: int) -> Floats:
        """The same, NaN where it is not the recording's own sound."""
        own = self._recording.read(begin, end)
        for piece in self.over(begin, end):
            own = own.copy()
            own[:, max(piece.begin - begin, 0) : max(piece.end - begin, 0)] = np.nan
        return own


def _lay(out: Floats, piece: Piece, begin: int) -> None:
    """Lay a piece over samples from `begin` on, in place."""
    marks = (piece.begin, piece.begin + piece.fade_in, piece.end - piece.fade_out, piece.end)
    for part, (first, last) in enumerate(itertools.pairwise(marks)):
        low, high = max(first, begin), min(last, begin + out.shape[1])
        if low >= high:
            continue
        laid = piece.samples[:, low - piece.begin : high - piece.begin]
        here = slice(low - begin, high - begin)
        if part == 1:
            out[:, here] = laid
        else:
            sides = (out[:, here], laid) if part == 0 else (laid, out[:, here])
            law = piece.laws[0 if part == 0 else 1]
            out[:, here] = joined(*sides, law=law, first=low - first, length=last - first)
