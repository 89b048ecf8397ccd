"""Sung takes and analyses kept on disk between runs, by content: what makes them, and from what."""

from __future__ import annotations

import fcntl
import hashlib
import os
import pickle
import shutil
from collections.abc import Callable
from contextlib import AbstractContextManager
from functools import lru_cache
from pathlib import Path
from typing import Any, TypeVar
from unittest.mock import patch

import numpy as np

from glass_thread.core.analysis import analysis
from glass_thread.core.signal.recording import Recording
from glass_thread.core.signal.types import Analysis, Floats
from glass_thread.demo import singer
from glass_thread.demo.score import Performance
from glass_thread.demo.singer import Sung
from glass_thread.services.work import jobs

ROOT = Path(__file__).parents[1]
FOLDER = ROOT / ".cache" / "takes"
Made = TypeVar("Made")


@lru_cache(maxsize=2)
def _program(*folders: str) -> bytes:
    """The parts of the program that make something: any change of them makes it anew."""
    digest = hashlib.sha256()
    for folder in folders:
        for path in sorted((ROOT / "src" / "glass_thread" / folder).rglob("*.py")):
            digest.update(path.read_bytes())
    return digest.digest()


@lru_cache(maxsize=1)
def _made_now() -> Path:
    """Where this program's takes and analyses are kept; those of an earlier one go."""
    folder = FOLDER / f"made-{_program('core', 'demo').hex()[:16]}"
    for older in FOLDER.glob("made-*"):
        if older != folder:
            shutil.rmtree(older, ignore_errors=True)  # another process may be at it too
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def _kept(asked: bytes, make: Callable[[], Made]) -> Made:
    path = _made_now() / f"{hashlib.sha256(asked).hexdigest()}.pickle"
    if path.is_file():
        return pickle.loads(path.read_bytes())
    made = make()
    part = path.with_suffix(f".{os.getpid()}.part")
    part.write_bytes(pickle.dumps(made))
    part.replace(path)
    return made


def kept_folder(asked: str, make: Callable[[Path], object]) -> Path:
    """A folder that `make` fills; processes that want the same one at once wait for the one that makes it."""
    path = FOLDER / f"{asked}-{hashlib.sha256(_program('.')).hexdigest()}"
    FOLDER.mkdir(parents=True, exist_ok=True)
    with (FOLDER / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not path.is_dir():
            for older in FOLDER.glob(f"{asked}-*"):
                shutil.rmtree(older)
            part = path.with_suffix(".part")
            part.mkdir()
            make(part)
            part.replace(path)
    return path


def sing(performance: Performance, sample_rate: int, **settings: Any) -> Sung:
    """As `singer.sing`."""
    asked = repr(("sing", performance, sample_rate, settings)).encode()
    return _kept(asked, lambda: singer.sing(performance, sample_rate, **settings))


def analyse(audio: Floats, sample_rate: int, **settings: Any) -> Analysis:
    """As `analysis.analyse`."""
    sound = np.ascontiguousarray(audio)
    asked = repr(("analyse", sound.shape, sound.dtype, sample_rate, settings)).encode()
    asked += hashlib.sha256(sound.tobytes()).digest()
    return _kept(asked, lambda: analysis.analyse(audio, sample_rate, **settings))


def analyses_kept() -> AbstractContextManager[object]:
    """While it lasts, an import takes the analysis of a recording that was analysed before from where it is kept."""

    def analyse_recording(recording: Recording, **_progress: Any) -> Analysis:
        return analyse(recording.read(0, recording.frames), recording.sample_rate)

    return patch.object(jobs, "analyse_recording", analyse_recording)
