"""Reading audio files; every way a file can be unusable ends in a sentence."""

from __future__ import annotations

import os
import threading
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile as sf
from numpy.typing import NDArray

from ..core.signal.errors import AudioError, CutOffError
from ..core.signal.types import Floats
from ..core.signal.validation import MAX_RATE, MIN_RATE, valid_audio
from .atomic import put_in_place
from .truncation import is_cut_off
from .watched_file import WatchedFile, watched
from .wave.bext import read_time_reference

LONGEST_S = 2 * 3600
MOST_CHANNELS = 2
EXACT_SEEK = frozenset({"WAV", "WAVEX", "RF64", "W64", "AIFF", "FLAC", "CAF", "AU"})
CUT_OFF = "The file is cut off: it promises more sound than it holds. Copy or export it again."
_UNPACK_FRAMES = 1 << 18
BITS_OF = {"PCM_S8": 8, "PCM_U8": 8, "PCM_16": 16, "PCM_24": 24, "PCM_32": 32, "FLOAT": 32, "DOUBLE": 32}


@dataclass(frozen=True)
class AudioInfo:
    """What a file says about itself; `bits` is 0 when it is stored with loss."""

    sample_rate: int
    channels: int
    frames: int
    container: str
    subtype: str
    time_reference: int | None

    @property
    def bits(self) -> int:
        """Bits per sample, 0 for lossy files."""
        return BITS_OF.get(self.subtype, 0)

    @property
    def is_float(self) -> bool:
        """True when samples are stored as floating point."""
        return self.subtype in ("FLOAT", "DOUBLE")


def probe_audio(path: Path) -> AudioInfo:
    """Read the header of a file and refuse what cannot be worked on.

    Raises
    ------
    CutOffError
        If the file ends early; `salvage` takes it as far as it goes.
    AudioError
        For everything else that keeps it from being worked on.
    """
    try:
        info = sf.info(str(path))
    except (sf.LibsndfileError, RuntimeError, OSError) as error:
        raise AudioError("This file is not audio we can read. Bring in WAV, AIFF, FLAC, Ogg or MP3.") from error
    refuse_unusable(info)
    if is_cut_off(path, info.format):
        raise CutOffError(CUT_OFF)
    return AudioInfo(info.samplerate, info.channels, info.frames, info.format, info.subtype, read_time_reference(path))


def refuse_unusable(info: sf._SoundFileInfo | sf.SoundFile) -> None:
    """Refuse rates, channels and lengths that cannot be worked on."""
    if not MIN_RATE <= info.samplerate <= MAX_RATE:
        raise AudioError(f"The sample rate is {info.samplerate} Hz; rates from 8 to 192 kHz can be worked on.")
    if info.channels > MOST_CHANNELS:
        raise AudioError(f"The file has {info.channels} channels; bring in one voice as mono or stereo.")
    if info.frames <= 0:
        raise AudioError("The file has no samples in it.")
    if info.frames > LONGEST_S * info.samplerate:
        raise AudioError("The file is longer than two hours; cut it into songs first.")


class AudioReader:
    """A recording on disk that is read piece by piece; safe to use from several threads.

    Files stored with loss cannot be entered exactly in the middle, so they are unpacked once, piece by piece, into
    `scratch`; pieces are exact 32-bit float where that holds them, else 64-bit.

    Parameters
    ----------
    path : Path
        The file.
    scratch : Path
        Where an unpacked copy lies, or is made when it is needed.
    """

    def __init__(self, path: Path, scratch: Path) -> None:
        self.info = probe_audio(path)
        if self.info.container not in EXACT_SEEK:
            if not scratch.is_file():
                unpack(path, scratch)
            path = scratch
        exact = self.info.subtype == "FLOAT" or self.info.bits <= 24
        self._type = "float32" if exact else "float64"
        self._lock = threading.Lock()
        self._path = path
        self._file: sf.SoundFile | None = opened(path)

    @property
    def sample_rate(self) -> int:
        """Hertz."""
        return self.info.sample_rate

    @property
    def channels(self) -> int:
        """How many."""
        return self.info.channels

    @property
    def frames(self) -> int:
        """Samples of each channel."""
        return self.info.frames

    def read(self, begin: int, end: int) -> Floats:
        """Samples [begin, end), shape (channels, end - begin)."""
        with self._lock:
            file = self._file = self._file or opened(self._path)
            try:
                file.seek(begin)
                frames = file.read(end - begin, dtype=self._type, always_2d=True)
            except (sf.LibsndfileError, RuntimeError) as error:
                raise AudioError("The file breaks off or is damaged; copy or export it again.") from error
        if len(frames) < end - begin:
            raise CutOffError(CUT_OFF)
        return np.ascontiguousarray(frames.T)

    def close(self) -> None:
        """Let go of the file; reading opens it anew."""
        with self._lock:
            if self._file is not None:
                self._file.close()
            self._file = None


def opened(path: Path) -> sf.SoundFile:
    """A file for reading, or AudioError."""
    try:
        return sf.SoundFile(str(path))
    except (sf.LibsndfileError, RuntimeError, OSError) as error:
        raise AudioError("The file breaks off or is damaged; copy or export it again.") from error


def unpack(path: Path, target: Path) -> None:
    """Write a file's sound as 32-bit float; `target` appears whole or not at all."""
    temporary = target.with_name(f"{target.name}.{os.getpid()}.part")
    try:
        with opened(path) as packed, watched(temporary) as file, sf.SoundFile(
            file, "w", packed.samplerate, packed.channels, "FLOAT", format="RF64"
        ) as plain:  # fmt: skip
            for block in packed.blocks(_UNPACK_FRAMES, dtype="float32", always_2d=True):
                plain.write(block)
            missing = packed.frames - plain.frames
            if missing > 0:  # encoders promise a few samples more than come out
                plain.write(np.zeros((min(missing, _UNPACK_FRAMES), packed.channels), dtype=np.float32))
        put_in_place(temporary, target)
    except (sf.LibsndfileError, RuntimeError) as error:
        raise AudioError("The file breaks off or is damaged; copy or export it again.") from error
    finally:
        temporary.unlink(missing_ok=True)


def read_audio(path: Path) -> tuple[Floats, AudioInfo]:
    """Decode a whole file to shape (channels, n), full scale ±1, exactly: as 32-bit float where that holds it."""
    info = probe_audio(path)
    try:
        exact = info.subtype == "FLOAT" or info.bits <= 24
        frames, _rate = sf.read(str(path), dtype="float32" if exact else "float64", always_2d=True)
    except (sf.LibsndfileError, RuntimeError) as error:
        raise AudioError("The file breaks off or is damaged; copy or export it again.") from error
    return valid_audio(np.ascontiguousarray(frames.T), info.sample_rate), info


class FlacWriter:
    """Writes FLAC block after block; whole numbers of 16 or 24 `bits`, shape (channels, n)."""

    def __init__(self, path: Path, sample_rate: int, channels: int, *, bits: int) -> None:
        self._shift = 32 - bits
        self._watched = WatchedFile(path)
        self._file = sf.SoundFile(self._watched, "w", sample_rate, channels, f"PCM_{bits}", format="FLAC")

    def write(self, samples: NDArray[np.int32]) -> None:
        """Add samples; OSError when the disk does not take them."""
        try:
            self._file.write(np.ascontiguousarray((samples.astype(np.int64) << self._shift).astype(np.int32).T))
        except (sf.LibsndfileError, AssertionError) as error:
            raise self._watched.failure or error from None

    def close(self) -> None:
        """Finish the file; OSError when the disk does not take it."""
        with suppress(sf.LibsndfileError):  # the reason is kept
            self._file.close()
        self._watched.close()
