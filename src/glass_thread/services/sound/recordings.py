"""Recordings on disk, read block by block; few files are open at a time."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Hashable
from typing import Protocol

import numpy as np

from ...core.signal.recording import Recording
from ...core.signal.types import Floats
from ...formats.audio import AudioReader
from ...store.byte_cache import ByteCache

MOST_OPEN = 24
_BLOCK_FRAMES = 1 << 16


class Shelf(Protocol):
    """Whatever has recordings by the hash of their bytes."""

    def reader(self, audio_hash: str) -> AudioReader:
        """A recording, to be read piece by piece."""


class CachedRecording:
    """A recording whose blocks are remembered in a shared cache."""

    def __init__(self, name: str, recording: Recording, blocks: ByteCache[Floats]) -> None:
        self.name = name
        self._recording, self._blocks = recording, blocks

    @property
    def sample_rate(self) -> int:
        """Hertz."""
        return self._recording.sample_rate

    @property
    def channels(self) -> int:
        """How many."""
        return self._recording.channels

    @property
    def frames(self) -> int:
        """Samples of each channel."""
        return self._recording.frames

    def read(self, begin: int, end: int) -> Floats:
        """Samples [begin, end), shape (channels, end - begin)."""
        if end <= begin:
            return self._block(0)[:, :0]
        first, last = begin // _BLOCK_FRAMES, (end - 1) // _BLOCK_FRAMES
        parts = [self._block(index) for index in range(first, last + 1)]
        joined = parts[0] if len(parts) == 1 else np.concatenate(parts, axis=1)
        return joined[:, begin - first * _BLOCK_FRAMES : end - first * _BLOCK_FRAMES]

    def own(self, begin: int, end: int) -> Floats:
        """The same: all of it is the recording's own sound."""
        return self.read(begin, end)

    def made_of(self, begin: int, end: int) -> Hashable:
        """What the samples [begin, end) follow from."""
        del begin, end
        return self.name

    def _block(self, index: int) -> Floats:
        known = self._blocks.get((self.name, index))
        if known is None:
            begin = index * _BLOCK_FRAMES
            known = self._recording.read(begin, min(begin + _BLOCK_FRAMES, self.frames))
            self._blocks.keep((self.name, index), known)
        return known


class Recordings:
    """Recordings of a shelf, opened when they are asked for; those asked for last stay open."""

    def __init__(self, shelf: Shelf, blocks: ByteCache[Floats]) -> None:
        self._shelf, self._blocks = shelf, blocks
        self._open: OrderedDict[str, tuple[AudioReader, CachedRecording]] = OrderedDict()
        self._lock = threading.Lock()

    def opened(self, audio_hash: str) -> tuple[AudioReader, CachedRecording]:
        """A recording, as it is and with its blocks remembered."""
        with self._lock:
            if audio_hash not in self._open:
                reader = self._shelf.reader(audio_hash)
                self._open[audio_hash] = (reader, CachedRecording(audio_hash, reader, self._blocks))
                while len(self._open) > MOST_OPEN:
                    self._open.popitem(last=False)[1][0].close()
            self._open.move_to_end(audio_hash)
            return self._open[audio_hash]

    def let_go(self) -> None:
        """Close all files; what is still read is opened anew."""
        with self._lock:
            for reader, _recording in self._open.values():
                reader.close()
            self._open.clear()
