"""What can still be read of a file that is cut off, as a whole file."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import soundfile as sf

from ..core.signal.errors import AudioError
from .audio import opened, refuse_unusable
from .watched_file import watched

_FRAMES = 1024
_SUBTYPES = {"PCM_S8": "PCM_16", "PCM_U8": "PCM_16", "PCM_16": "PCM_16", "PCM_24": "PCM_24", "PCM_32": "PCM_32",
             "DOUBLE": "DOUBLE"}  # fmt: skip


def salvage(path: Path, target: Path) -> None:
    """Write the sound of a file up to where it breaks off to `target`, as WAV (RF64) that loses nothing of it.

    Raises
    ------
    AudioError
        If nothing can be read, or it is not a file that can be worked on anyhow.
    """
    with opened(path) as broken:
        refuse_unusable(broken)
        subtype = _SUBTYPES.get(broken.subtype, "FLOAT")
        with watched(target) as file, sf.SoundFile(
            file, "w", broken.samplerate, broken.channels, subtype, format="RF64"
        ) as whole:  # fmt: skip
            for block in _readable(broken):
                whole.write(block)
            if not whole.frames:
                raise AudioError("Nothing of the file can be read; copy or export it again.")


def _readable(broken: sf.SoundFile) -> Iterator[np.ndarray]:
    """Blocks until there are none, or until the decoder stumbles; whole numbers as they are."""
    kind = "float64" if broken.subtype in ("FLOAT", "DOUBLE") or broken.subtype not in _SUBTYPES else "int32"
    while True:
        try:
            block = broken.read(_FRAMES, dtype=kind, always_2d=True)
        except (sf.LibsndfileError, RuntimeError):
            return
        if not len(block):
            return
        yield block
