"""The broadcast extension chunk of WAV files (EBU Tech 3285), as far as a time stamp needs it."""

from __future__ import annotations

import struct
from pathlib import Path

from ...core.signal.errors import AudioError

_FIXED_SIZE = 602
_TIME_AT = 256 + 32 + 32 + 10 + 8
_LATEST = 2**63  # what SQLite and every session can hold; a stamp beyond it is a broken field
_MOST_CHUNKS = 10_000


def read_chunks(path: Path) -> dict[bytes, tuple[int, int]]:
    """Chunk name to (offset of its data, declared size) of a RIFF or RF64 WAV file; empty for anything else.

    What follows the last chunk with a printable name is not looked at, so a long tail of zeros costs nothing
    (names of RIFF chunks are printable ASCII: Multimedia Programming Interface 1.0, 1991; from memory).
    """
    chunks: dict[bytes, tuple[int, int]] = {}
    with path.open("rb") as file:
        head = file.read(12)
        if len(head) < 12 or head[:4] not in (b"RIFF", b"RF64") or head[8:] != b"WAVE":
            return {}
        for _ in range(_MOST_CHUNKS):
            header = file.read(8)
            if len(header) < 8:
                break
            name, size = header[:4], struct.unpack("<I", header[4:])[0]
            if not all(0x20 <= letter <= 0x7E for letter in name):
                break
            chunks.setdefault(name, (file.tell(), size))
            file.seek(size + (size & 1), 1)
    return chunks


def read_time_reference(path: Path) -> int | None:
    """First sample's position on the timeline in samples since midnight, or None when the file has no stamp.

    Raises
    ------
    AudioError
        If the stamp is cut off or larger than any recording's can be.
    """
    place = read_chunks(path).get(b"bext")
    if place is None or place[1] < _FIXED_SIZE:
        return None
    with path.open("rb") as file:
        file.seek(place[0] + _TIME_AT)
        stamp = file.read(8)
    reference = int.from_bytes(stamp, "little")
    if len(stamp) < 8 or reference >= _LATEST:
        raise AudioError("The file's time stamp is broken; export it again, or without a time stamp.")
    return reference


def bext_chunk(time_reference: int, *, description: str = "", originator: str = "Glass Thread") -> bytes:
    """The chunk's data, version 1, with the given time stamp in samples."""
    fixed = description.encode("ascii", "replace")[:256].ljust(256, b"\0")
    fixed += originator.encode("ascii", "replace")[:32].ljust(32, b"\0") + b"\0" * 32
    fixed += b"1970-01-01" + b"00:00:00"  # no date: the same input gives the same file
    fixed += struct.pack("<IIH", time_reference & 0xFFFFFFFF, time_reference >> 32, 1)
    return fixed.ljust(_FIXED_SIZE, b"\0")
