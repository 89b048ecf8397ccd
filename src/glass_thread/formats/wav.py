"""Writing WAV files with a time stamp, sample for sample."""

from __future__ import annotations

import struct
from pathlib import Path

import numpy as np

from ..core.signal.errors import TooLargeError
from .bext import bext_chunk

_LARGEST = 0xFFFFFFFF - 2048


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


def write_wav(
    path: Path, samples: np.ndarray, sample_rate: int, *, bits: int, time_reference: int | None = None
) -> None:
    """Write shape (channels, n): integers of 16 or 24 `bits`, or 32-bit float.

    Raises
    ------
    TooLargeError
        If the file would pass the 4 GB that a WAV file can hold.
    """
    channels = samples.shape[0]
    width = bits // 8
    if samples.size * width > _LARGEST:
        raise TooLargeError("The print would be larger than the 4 GB a WAV file can hold; choose FLAC or fewer bits.")
    data = _packed(samples, bits)
    kind = 3 if bits == 32 else 1
    form = struct.pack("<HHIIHH", kind, channels, sample_rate, sample_rate * channels * width, channels * width, bits)
    body = b"WAVE" + _chunk(b"fmt ", form)
    if kind == 3:
        body += _chunk(b"fact", struct.pack("<I", samples.shape[1]))
    if time_reference is not None:
        body += _chunk(b"bext", bext_chunk(time_reference))
    body += _chunk(b"data", data)
    path.write_bytes(b"RIFF" + struct.pack("<I", len(body)) + body)
