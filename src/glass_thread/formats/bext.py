"""The broadcast extension chunk of WAV files (EBU Tech 3285), as far as a time stamp needs it."""

from __future__ import annotations

import struct
from pathlib import Path

_FIXED_SIZE = 602
_TIME_AT = 256 + 32 + 32 + 10 + 8


def read_chunks(path: Path) -> dict[bytes, tuple[int, int]]:
    """Chunk name to (offset of its data, declared size) of a RIFF or RF64 WAV file; empty for anything else."""
    chunks: dict[bytes, tuple[int, int]] = {}
    with path.open("rb") as file:
        head = file.read(12)
        if len(head) < 12 or head[:4] not in (b"RIFF", b"RF64") or head[8:] != b"WAVE":
            return {}
        while len(header := file.read(8)) == 8:
            name, size = header[:4], struct.unpack("<I", header[4:])[0]
            chunks.setdefault(name, (file.tell(), size))
            file.seek(size + (size & 1), 1)
    return chunks


def read_time_reference(path: Path) -> int | None:
    """First sample's position on the timeline in samples since midnight, or None when the file has no stamp."""
    place = read_chunks(path).get(b"bext")
    if place is None or place[1] < _FIXED_SIZE:
        return None
    with path.open("rb") as file:
        file.seek(place[0] + _TIME_AT)
        low, high = struct.unpack("<II", file.read(8))
    return int(low + (high << 32))


def bext_chunk(time_reference: int, *, description: str = "", originator: str = "Glass Thread") -> bytes:
    """The chunk's data, version 1, with the given time stamp in samples."""
    fixed = description.encode("ascii", "replace")[:256].ljust(256, b"\0")
    fixed += originator.encode("ascii", "replace")[:32].ljust(32, b"\0") + b"\0" * 32
    fixed += b"1970-01-01" + b"00:00:00"  # no date: the same input gives the same file
    fixed += struct.pack("<IIH", time_reference & 0xFFFFFFFF, time_reference >> 32, 1)
    return fixed.ljust(_FIXED_SIZE, b"\0")
