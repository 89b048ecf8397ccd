"""Which part of a track a print holds: a range that may reach beyond it, and stretches in it with fades."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ...core.signal.signal_tools import merged_ranges
from ...core.signal.types import Floats
from ..sound.sound import PRINT_BLOCK_S, Block
from ..sound.take import Take

Spans = tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Layout:
    """Samples [first, last) of a track; outside of `spans` silence, when there are any, with fades of `fade` samples
    inside of them."""

    first: int
    last: int
    spans: Spans = ()
    fade: int = 0

    @classmethod
    def from_data(cls, data: Mapping[str, Any]) -> Layout:
        """A layout from the fields of one as JSON has them."""
        return cls(data["first"], data["last"], tuple((a, b) for a, b in data["spans"]), data["fade"])

    @property
    def length(self) -> int:
        """Samples of the print, at the track's rate."""
        return self.last - self.first

    def gain(self, begin: int, end: int) -> Floats | None:
        """Factors for track samples [begin, end), shape (n,); None when all are 1."""
        if not self.spans:
            return None
        at = np.arange(begin, end)
        gain = np.zeros(end - begin)
        for start, stop in self.spans:
            fade = max(1, min(self.fade, (stop - start) // 2)) if self.fade else 0
            inside = (at >= start) & (at < stop)
            ramp = np.ones(end - begin)
            if fade:
                ramp = np.clip((np.minimum(at - start, stop - 1 - at) + 0.5) / fade, 0.0, 1.0)
            gain[inside] = ramp[inside]
        return None if (gain == 1.0).all() else gain


def laid_out(take: Take, layout: Layout, sample_rate: int, channels: int) -> Iterator[Block]:
    """The blocks of a take as a layout has them; beyond the take there is silence."""
    step = PRINT_BLOCK_S * sample_rate
    for begin in range(layout.first, layout.last, step):
        end = min(begin + step, layout.last)
        low, high = min(max(begin, 0), take.length), min(max(end, 0), take.length)
        parts = [np.zeros((channels, end - begin)) for _ in range(3)]
        displaced: list[tuple[int, int]] = []
        for block in take.blocks(low, high):
            at = slice(block.begin - begin, block.begin - begin + block.tuned.shape[1])
            for part, samples in zip(parts, (block.sung, block.moved, block.tuned), strict=True):
                part[:, at] = samples
            displaced += block.displaced
        gain = layout.gain(begin, end)
        if gain is not None:
            parts[2] = parts[2] * gain
        sung, moved, tuned = parts
        yield Block(begin, sung, moved, tuned, tuple(displaced))


def chosen_spans(spans_s: Sequence[tuple[float, float]], sample_rate: int, length: int) -> Spans:
    """Stretches in seconds as ranges of samples within a track, in order, those that touch made one."""
    inside = ((max(0, round(a * sample_rate)), min(length, round(b * sample_rate))) for a, b in spans_s)
    return tuple(merged_ranges(span for span in inside if span[0] < span[1]))
