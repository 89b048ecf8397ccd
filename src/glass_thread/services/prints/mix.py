"""What a mix is made of, and its sound."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ...core.signal.types import Floats
from ..sound.recordings import CachedRecording
from ..sound.sound import PRINT_BLOCK_S, Block
from ..sound.take import Take


@dataclass(frozen=True)
class MixPart:
    """What sounds of one track: its take, or the recording of a backing; where it begins in the mix, in samples; and a
    factor for each channel of the mix, or one for all."""

    take: Take | CachedRecording
    begin: int
    gains: tuple[float, ...]

    def span(self, begin: int, end: int) -> Floats:
        """Samples [begin, end) of the track, shape (channels, n); what lies outside of it is left out."""
        if isinstance(self.take, CachedRecording):
            return self.take.read(min(begin, self.take.frames), min(end, self.take.frames))
        return self.take.span(begin, end)


def mixed(parts: Sequence[MixPart], length: int, sample_rate: int, channels: int) -> Iterator[Block]:
    """The sum of parts, block after block; mono parts go to every channel."""
    step = PRINT_BLOCK_S * sample_rate
    for begin in range(0, length, step):
        end = min(begin + step, length)
        out = np.zeros((channels, end - begin))
        for part in parts:
            low, high = max(0, begin - part.begin), end - part.begin
            if high <= low:
                continue
            samples = part.span(low, high)
            at = low + part.begin - begin
            out[:, at : at + samples.shape[1]] += np.array(part.gains)[:, None] * samples
        nothing = np.full_like(out, np.nan)  # no sample of a mix is one of a recording
        yield Block(begin, nothing, nothing, out)


def pan_gains(pan: float, channels: int) -> tuple[float, float]:
    """Factors for left and right: equal power for one channel, 1 in the middle; for two the far side is lowered."""
    if channels == 1:
        angle = (pan + 1.0) * np.pi / 4.0
        return float(np.sqrt(2.0) * np.cos(angle)), float(np.sqrt(2.0) * np.sin(angle))
    return float(np.cos(max(pan, 0.0) * np.pi / 2.0)), float(np.cos(min(pan, 0.0) * np.pi / 2.0))
