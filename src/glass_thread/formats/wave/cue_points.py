"""Cue points of WAV files with their names: the chunks ``cue `` and ``LIST`` of type ``adtl``.

Multimedia Programming Interface and Data Specifications 1.0 (IBM and Microsoft, 1991), "Cue-Points Chunk" and
"Associated Data Chunk"; from memory.
"""

from __future__ import annotations

import struct
from collections.abc import Sequence

MOST = 10_000


def cue_chunks(cues: Sequence[tuple[int, str]]) -> list[tuple[bytes, bytes]]:
    """Names and data of the chunks for cue points, each a sample from the first one of the file on and a name; none
    for no points."""
    points = sorted(cues)[:MOST]
    if not points:
        return []
    table = b"".join(struct.pack("<II4sIII", number, at, b"data", 0, 0, at)
                     for number, (at, _text) in enumerate(points, 1))  # fmt: skip
    names = b"adtl"
    for number, (_at, text) in enumerate(points, 1):
        data = struct.pack("<I", number) + text.encode() + b"\0"
        names += b"labl" + struct.pack("<I", len(data)) + data + b"\0" * (len(data) & 1)
    return [(b"cue ", struct.pack("<I", len(points)) + table), (b"LIST", names)]
