"""Writing WAV files with a time stamp, block after block and sample for sample."""

from __future__ import annotations

import struct
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from ...core.signal.errors import TooLargeError
from .bext import bext_chunk
from .cue_points import cue_chunks

_LARGEST = 0xFFFFFFFF - (4 << 20)  # with room for the names of many cue points


def _chunk(name: bytes, data: bytes) -> bytes:
    return name + struct.pack("<I", len(data)) + data + b"\0" * (len(data) & 1)


def _packed(samples: np.ndarray, bits: int) -> bytes:
    """Interleaved little-endian bytes of shape (channels, n): whole numbers for 16 and 24, float32 for 32."""
    frames = np.ascontiguousarray(samples.T)
    if bits == 32:
        return frames.astype("<f4").tobytes()
    if bits == 16:
        return frames.astype("<i2").tobytes()
    return frames.astype("<i4").view(np.uint8).reshape(-1, 4)[:, :3].tobytes()


class WavWriter:
    """Writes integers of 16 or 24 `bits`, or 32-bit float, of a length that is known beforehand; `cues` are samples
    with the names of what begins there.

    Raises
    ------
    TooLargeError
        If the file would pass the 4 GB that a WAV file can hold.
    """

    def __init__(
        self, path: Path, sample_rate: int, channels: int, frames: int, *, bits: int,
        time_reference: int | None = None, cues: Sequence[tuple[int, str]] = (),
    ) -> None:  # fmt: skip
        width = bits // 8
        size = frames * channels * width
        if size > _LARGEST:
            raise TooLargeError(
                "The print would be larger than the 4 GB a WAV file can hold; choose FLAC or fewer bits."
            )
        kind = 3 if bits == 32 else 1
        per_second = sample_rate * channels * width
        form = struct.pack("<HHIIHH", kind, channels, sample_rate, per_second, channels * width, bits)
        head = b"WAVE" + _chunk(b"fmt ", form)
        if kind == 3:
            head += _chunk(b"fact", struct.pack("<I", frames))
        if time_reference is not None:
            head += _chunk(b"bext", bext_chunk(time_reference))
        head += b"".join(_chunk(name, data) for name, data in cue_chunks(cues))
        head += b"data" + struct.pack("<I", size)
        self._bits, self._odd = bits, size & 1
        self._file = path.open("wb")
        self._file.write(b"RIFF" + struct.pack("<I", len(head) + size + self._odd) + head)

    def write(self, samples: np.ndarray) -> None:
        """Add samples, shape (channels, n)."""
        self._file.write(_packed(samples, self._bits))

    def close(self) -> None:
        """Finish the file."""
        self._file.write(b"\0" * self._odd)
        self._file.close()


def write_wav(
    path: Path, samples: np.ndarray, sample_rate: int, *, bits: int, time_reference: int | None = None
) -> None:
    """Write shape (channels, n) in one go."""
    channels, frames = samples.shape
    writer = WavWriter(path, sample_rate, channels, frames, bits=bits, time_reference=time_reference)
    writer.write(samples)
    writer.close()
