"""Reading audio files; every way a file can be unusable ends in a sentence."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile as sf

from ..core.signal.errors import AudioError
from ..core.signal.types import Floats
from ..core.signal.validation import MAX_RATE, MIN_RATE, valid_audio
from .bext import read_chunks, read_time_reference

LONGEST_S = 2 * 3600
MOST_CHANNELS = 2
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
    """Read the header of a file and refuse what cannot be worked on."""
    try:
        info = sf.info(str(path))
    except (sf.LibsndfileError, RuntimeError, OSError) as error:
        raise AudioError("This file is not audio we can read. Bring in WAV, AIFF, FLAC, Ogg or MP3.") from error
    if not MIN_RATE <= info.samplerate <= MAX_RATE:
        raise AudioError(f"The sample rate is {info.samplerate} Hz; rates from 8 to 192 kHz can be worked on.")
    if info.channels > MOST_CHANNELS:
        raise AudioError(f"The file has {info.channels} channels; bring in one voice as mono or stereo.")
    if info.frames <= 0:
        raise AudioError("The file has no samples in it.")
    if info.frames > LONGEST_S * info.samplerate:
        raise AudioError("The file is longer than two hours; cut it into songs first.")
    _refuse_truncated(path)
    return AudioInfo(info.samplerate, info.channels, info.frames, info.format, info.subtype, read_time_reference(path))


def _refuse_truncated(path: Path) -> None:
    place = read_chunks(path).get(b"data")
    if place is not None and place[1] < 0xFFFFFFFF and place[0] + place[1] > path.stat().st_size:
        raise AudioError("The file is cut off: it promises more sound than it holds. Copy or export it again.")


def read_audio(path: Path) -> tuple[Floats, AudioInfo]:
    """Decode a whole file to shape (channels, n), full scale ±1, exactly: as 32-bit float where that holds it."""
    info = probe_audio(path)
    try:
        exact = info.subtype == "FLOAT" or info.bits <= 24
        frames, _rate = sf.read(str(path), dtype="float32" if exact else "float64", always_2d=True)
    except (sf.LibsndfileError, RuntimeError) as error:
        raise AudioError("The file breaks off or is damaged; copy or export it again.") from error
    if info.container == "FLAC" and len(frames) < info.frames:
        raise AudioError("The file is cut off: it promises more sound than it holds. Copy or export it again.")
    return valid_audio(np.ascontiguousarray(frames.T), info.sample_rate), info


def write_flac(path: Path, samples: np.ndarray, sample_rate: int, *, bits: int) -> None:
    """Write integers of 16 or 24 `bits`, shape (channels, n), as FLAC."""
    frames = np.ascontiguousarray((samples.astype(np.int64) << (32 - bits)).astype(np.int32).T)
    sf.write(str(path), frames, sample_rate, format="FLAC", subtype=f"PCM_{bits}")
