"""Files that nobody should send: real ones of every kind, hurt in every way, and what is no sound at all."""

from __future__ import annotations

import io
import random
import struct
from collections.abc import Callable, Iterator

import numpy as np
import soundfile as sf

from ...core.signal.types import Floats
from ...demo.singer import sing
from ...demo.voices import random_performance

RATE = 44_100
_KINDS = (
    ("WAV", "PCM_16"), ("WAV", "PCM_24"), ("WAV", "FLOAT"), ("RF64", "PCM_16"), ("AIFF", "PCM_16"),
    ("FLAC", "PCM_16"), ("OGG", "VORBIS"), ("MP3", "MPEG_LAYER_III"), ("CAF", "PCM_16"), ("AU", "PCM_16"),
)  # fmt: skip


def short_take(seed: int, seconds: float = 4.0) -> Floats:
    """A short take of an invented singer."""
    return sing(random_performance("tenor", seed), RATE).audio[: int(seconds * RATE)]


def _cut(data: bytearray, rng: random.Random) -> bytes:
    return bytes(data[: rng.randrange(len(data))])


def _flip(data: bytearray, rng: random.Random) -> bytes:
    for _ in range(rng.choice((1, 5, 50, 500))):
        data[rng.randrange(len(data))] ^= rng.randrange(1, 256)
    return bytes(data)


def _hurt_header(data: bytearray, rng: random.Random) -> bytes:
    for _ in range(rng.choice((1, 3, 12))):
        data[rng.randrange(min(120, len(data)))] = rng.choice((0, 1, 0x7F, 0x80, 0xFF, rng.randrange(256)))
    return bytes(data)


def _boast(data: bytearray, rng: random.Random) -> bytes:
    """A length field somewhere near the start promises the world."""
    at = rng.randrange(4, 60)
    data[at : at + 4] = rng.choice((b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff", b"\xff\xff\xff\x7f"))
    return bytes(data)


def _swap(data: bytearray, rng: random.Random) -> bytes:
    """Two stretches change places."""
    a, b = sorted(rng.randrange(len(data)) for _ in range(2))
    return bytes(data[b:] + data[a:b] + data[:a])


def _tail(data: bytearray, rng: random.Random) -> bytes:
    return bytes(data) + rng.choice((b"\0", b"\xff", b"RIFF", rng.randbytes(997))) * rng.randrange(1, 5000)


_HURTS: tuple[Callable[[bytearray, random.Random], bytes], ...] = (_cut, _flip, _hurt_header, _boast, _swap, _tail)


def _odd(rate: int, sung: Floats) -> Iterator[tuple[str, bytes]]:
    """Files that are well formed, or nothing at all."""
    yield from (("empty.wav", b""), ("text.wav", b"la la la"), ("zeros.wav", bytes(100_000)), ("page.mp3", b"<html>"))
    yield "../../x.wav", b"RIFF"
    yield "only-head.wav", b"RIFF" + struct.pack("<I", 36) + b"WAVEfmt "
    wrong = {"nan.wav": np.nan, "inf.wav": np.inf, "huge.wav": 1e38, "silent.wav": 0.0}
    for name, value in wrong.items():
        samples = np.full(rate, value) if value == 0.0 else np.where(np.arange(len(sung)) == 99, value, sung)
        yield name, sound_file(samples, rate, "WAV", "FLOAT")
    yield "one-sample.wav", sound_file(sung[:1], rate, "WAV", "PCM_16")
    yield "many.wav", sound_file(np.tile(sung[:, None], (1, 9)), rate, "WAV", "PCM_16")
    for odd in (1, 100, 7999, 400_000):
        yield f"rate-{odd}.wav", sound_file(sung, odd, "WAV", "PCM_16")


def sound_file(samples: Floats, rate: int, container: str, subtype: str) -> bytes:
    """A sound as the bytes of a file."""
    out = io.BytesIO()
    sf.write(out, samples, rate, subtype=subtype, format=container)
    return out.getvalue()


def hostile_files(sung: Floats, rate: int, count: int, seed: int = 1) -> Iterator[tuple[str, bytes]]:
    """`count` names and files; `sung` is a short take, one channel, at `rate` Hz."""
    rng = random.Random(seed)
    odd = list(_odd(rate, sung))[:count]
    yield from odd
    sound = [(container, sound_file(sung, rate, container, subtype)) for container, subtype in _KINDS]
    for number in range(count - len(odd)):
        container, data = sound[number % len(sound)]
        hurt = _HURTS[number // len(sound) % len(_HURTS)]
        yield f"{hurt.__name__[1:]}-{number}.{container.lower()}", hurt(bytearray(data), rng)
