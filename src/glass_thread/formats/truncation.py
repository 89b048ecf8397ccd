"""Files that hold less than their own headers promise, as after an interrupted copy; decoders say nothing of it."""

from __future__ import annotations

import re
import struct
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

import soundfile as sf

from .wave.bext import read_chunks

_UNKNOWN = 0xFFFFFFFF
_LONGEST_PAGE = 27 + 255 + 255 * 255
_LAST_PAGE = 0x04
_FIRST_FRAME = 1 << 12
_HAS_FRAMES, _HAS_BYTES = 1, 2
_SIDE_INFO = (13, 21, 36)  # bytes between the start of a frame and its length header, by version and channels


def is_cut_off(path: Path, container: str) -> bool:
    """True when a WAV, RF64, AIFF, FLAC, Ogg or MP3 file of this libsndfile container ends before what it promises."""
    check = _CHECKS.get(container)
    return check is not None and check(path)


def _wav(path: Path) -> bool:
    """RIFF and RF64; the latter's real size stands in its ds64 chunk (EBU Tech 3306)."""
    chunks = read_chunks(path)
    if b"data" not in chunks:
        return False
    begin, size = chunks[b"data"]
    if size == _UNKNOWN and b"ds64" in chunks:
        with path.open("rb") as file:
            file.seek(chunks[b"ds64"][0] + 8)
            stored = file.read(8)
        size = int.from_bytes(stored, "little")
    return size != _UNKNOWN and begin + size > path.stat().st_size


def _aiff(path: Path) -> bool:
    """The SSND chunk against the file's end (Audio Interchange File Format 1.3, Apple 1989; from memory)."""
    end = path.stat().st_size
    with path.open("rb") as file:
        file.seek(12)
        while len(header := file.read(8)) == 8:
            name, size = header[:4], struct.unpack(">I", header[4:])[0]
            if name == b"SSND":
                return file.tell() + size > end
            file.seek(size + (size & 1), 1)
    return False


def _ogg(path: Path) -> bool:
    """The last page of a stream says so in its header (RFC 3533, section 6)."""
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - 2 * _LONGEST_PAGE))
        return not _ends_stream(file)


def _ends_stream(file: BinaryIO) -> bool:
    tail = file.read()
    place = tail.rfind(b"OggS")
    if place < 0 or len(tail) < place + 27:
        return False
    segments = tail[place + 26]
    sizes = tail[place + 27 : place + 27 + segments]
    return bool(tail[place + 5] & _LAST_PAGE) and len(tail) >= place + 27 + segments + sum(sizes)


def _mp3(path: Path) -> bool:
    """The bytes that the length header of the first frame promises (a custom of encoders; from memory)."""
    with path.open("rb") as file:
        first_frame = _after_tag(file.read(10))
        file.seek(first_frame)
        head = file.read(_FIRST_FRAME)
    for found in re.finditer(rb"Xing|Info", head[:-12]):
        begin = next((found.start() - k for k in _SIDE_INFO if _is_frame(head, found.start() - k)), None)
        flags, first, second = struct.unpack(">III", head[found.end() : found.end() + 12])
        if begin is not None and flags & _HAS_BYTES:
            return bool(first_frame + begin + (second if flags & _HAS_FRAMES else first) > path.stat().st_size)
    return False


def _after_tag(start: bytes) -> int:
    """Where sound begins: behind an ID3v2.4 tag (id3.org, structure, 3.1), whose size has 7 bits a byte."""
    if len(start) < 10 or start[:3] != b"ID3":
        return 0
    a, b, c, d = start[6:10]
    return 10 + (a << 21 | b << 14 | c << 7 | d)


def _is_frame(head: bytes, place: int) -> bool:
    """The eleven set bits that every frame begins with (ISO/IEC 11172-3, 2.4.2.3)."""
    return place >= 0 and head[place] == 0xFF and head[place + 1] & 0xE0 == 0xE0


def _flac(path: Path) -> bool:
    """The last sample that the header promises cannot be found."""
    try:
        with sf.SoundFile(str(path)) as file:
            file.seek(file.frames - 1)
            return len(file.read(1)) < 1
    except (sf.LibsndfileError, RuntimeError):
        return True


_CHECKS: dict[str, Callable[[Path], bool]] = {
    "WAV": _wav, "WAVEX": _wav, "RF64": _wav, "AIFF": _aiff, "FLAC": _flac, "OGG": _ogg, "MP3": _mp3,
}  # fmt: skip
