"""Signals with known truth, and folders that clean up after themselves."""

from __future__ import annotations

import tempfile
import unittest
from functools import lru_cache
from pathlib import Path

import numpy as np
import soundfile as sf

from glass_thread.core.analysis.analysis import analyse
from glass_thread.core.document.content import Content, ContentChange
from glass_thread.core.document.edits import Document
from glass_thread.core.document.operations import operations
from glass_thread.core.document.scales import Key
from glass_thread.core.signal.types import HOP_S, Analysis, Contour
from glass_thread.core.signal.units import midi_to_hz
from glass_thread.demo.score import Performance, SungAir, SungNote
from glass_thread.demo.singer import Sung, sing
from glass_thread.services.workspace import Workspace, open_workspace

RATE = 44_100


def apply_operation(notes: Document, key: Key, operation: dict, analysis: Analysis | None = None) -> ContentChange:
    """An operation on notes alone, without air or gaps."""
    return operations.apply_operation(Content(notes), key, operation, analysis)


def harmonic_tone(midi: np.ndarray, rate: int, *, harmonics: int = 20, level: float = 0.2) -> np.ndarray:
    """A tone with 1/k harmonics that follows `midi`, shape (n,), without aliasing."""
    hz = midi_to_hz(midi)
    phase = 2 * np.pi * np.cumsum(hz) / rate
    out = np.zeros(len(midi))
    for k in range(1, harmonics + 1):
        out += np.where(k * hz < 0.45 * rate, np.sin(k * phase) / k, 0.0)
    return level * out


def vibrato_midi(
    seconds: float, rate: int, *, centre: float = 60.0, hz: float = 5.5, cents: float = 50.0
) -> np.ndarray:
    """A pitch with steady vibrato, shape (n,)."""
    t = np.arange(int(seconds * rate)) / rate
    return centre + cents / 100 * np.sin(2 * np.pi * hz * t)


def frames(seconds: float) -> np.ndarray:
    """Times of the analysis frames of a stretch."""
    return np.arange(int(seconds / HOP_S)) * HOP_S


def contour_of(midi: np.ndarray) -> Contour:
    """A certain contour."""
    return Contour(np.asarray(midi, dtype=float), np.where(np.isfinite(midi), 1.0, 0.0))


def short_performance(seed: int = 5) -> Performance:
    """Three phrases: two notes sung through, one after a sibilant, one held with vibrato after a breath."""
    notes = (
        SungNote(0.4, 0.9, 60, "a", off=-40),
        SungNote(0.9, 1.4, 64, "o"),
        SungNote(1.55, 2.1, 62, "e", off=30, drift=25),
        SungNote(2.8, 3.9, 65, "a", vibrato_cents=45, off=20),
    )
    air = (
        SungAir("sibilant", "s", 1.42, 1.55, -26.0),
        SungAir("breath", "breath", 2.3, 2.65, -32.0),
    )
    return Performance(4.2, notes, air, seed=seed)


@lru_cache(maxsize=4)
def sung_short(seed: int = 5) -> tuple[Performance, Sung]:
    """The short performance as sound, at 44.1 kHz."""
    performance = short_performance(seed)
    return performance, sing(performance, RATE)


@lru_cache(maxsize=4)
def analysed_short(seed: int = 5) -> Analysis:
    """Its analysis."""
    return analyse(sung_short(seed)[1].audio, RATE)


def write_short(folder: Path, name: str = "take.wav", subtype: str = "PCM_16", **settings: object) -> Path:
    """The short performance as a file."""
    path = folder / name
    sf.write(str(path), sung_short()[1].audio, RATE, subtype=subtype, **settings)
    return path


class FolderCase(unittest.TestCase):
    """A test with a folder of its own."""

    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)

    def workspace(self) -> Workspace:
        """A workspace in the folder."""
        opened = open_workspace(self.folder / "data")
        self.addCleanup(opened.close)
        return opened
