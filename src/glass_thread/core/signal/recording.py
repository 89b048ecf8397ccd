"""Recordings that are read piece by piece, so that no length has to be held in memory."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Protocol

from .types import Floats
from .validation import valid_audio

BLOCK_S = 30


class Recording(Protocol):
    """A sound of `frames` samples in `channels` at `sample_rate` hertz."""

    @property
    def sample_rate(self) -> int:
        """Hertz."""

    @property
    def channels(self) -> int:
        """How many."""

    @property
    def frames(self) -> int:
        """Samples of each channel."""

    def read(self, begin: int, end: int) -> Floats:
        """Samples [begin, end), shape (channels, end - begin), full scale ±1; the range lies inside."""


@dataclass(frozen=True)
class HeldRecording:
    """A recording that is held in memory as `audio`, shape (channels, n)."""

    audio: Floats
    sample_rate: int

    @property
    def channels(self) -> int:
        """How many."""
        return self.audio.shape[0]

    @property
    def frames(self) -> int:
        """Samples of each channel."""
        return self.audio.shape[1]

    def read(self, begin: int, end: int) -> Floats:
        """Samples [begin, end)."""
        return self.audio[:, begin:end]


def held(audio: Floats, sample_rate: int) -> HeldRecording:
    """Checked audio of shape (n,) or (channels, n) as a recording."""
    return HeldRecording(valid_audio(audio, sample_rate), sample_rate)


@dataclass(frozen=True)
class Mono:
    """One line of a recording, read by slices like an array: the mean of the channels, or only the first."""

    recording: Recording
    mean: bool = True

    def __len__(self) -> int:
        return self.recording.frames

    def __getitem__(self, part: slice) -> Floats:
        begin, end, _step = part.indices(len(self))
        samples = self.recording.read(begin, max(begin, end))
        return samples.mean(axis=0) if self.mean and len(samples) > 1 else samples[0]


def blocks_of(recording: Recording, begin: int = 0, end: int | None = None) -> Iterator[tuple[int, Floats]]:
    """First sample and samples, shape (channels, n), of block after block of [begin, end)."""
    last = recording.frames if end is None else end
    step = BLOCK_S * recording.sample_rate
    for first in range(begin, last, step):
        yield first, recording.read(first, min(first + step, last))
