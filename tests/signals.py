"""Signals with known truth, and folders that clean up after themselves."""

from __future__ import annotations

import shutil
import tempfile
import unittest
from collections.abc import Mapping, Sequence
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np
import soundfile as sf

from glass_thread.core.document.content import Content, ContentChange, apply_to_content
from glass_thread.core.document.gestures import Gesture
from glass_thread.core.document.notes import EditedNote, Notes
from glass_thread.core.document.operations.registry import Scene, parse_operation
from glass_thread.core.plan.plan import Plan, build_plan
from glass_thread.core.signal.types import HOP_S, Analysis, Contour, Note
from glass_thread.core.signal.units import midi_to_hz
from glass_thread.core.song.keys import KeyMap
from glass_thread.demo.score import Performance, SungAir, SungNote
from glass_thread.demo.singer import Sung
from glass_thread.services.folder.workspace import Workspace, open_workspace
from tests.kept import analyse, kept_folder, sing

RATE = 44_100
REAL_TAKE = Path(__file__).parent / "recordings" / "vocadito_10.flac"  # nine seconds of a real voice
NOTHING_FOUND = Analysis(RATE, 0.0, Contour(np.zeros(0), np.zeros(0)), (), (), (), (), 440.0)


def apply_to(content: Content, keys: KeyMap, operation: dict, analysis: Analysis | None = None) -> ContentChange:
    """The change an operation, given as plain data, makes to a content."""
    return parse_operation(operation).change(Scene(content, keys, analysis or NOTHING_FOUND))


def apply_operation(notes: Notes, keys: KeyMap, operation: dict, analysis: Analysis | None = None) -> ContentChange:
    """The same on notes alone, without air or gaps."""
    return apply_to(Content(notes), keys, operation, analysis)


def apply_change(notes: Notes, change: ContentChange, *, backwards: bool = False) -> dict[str, EditedNote]:
    """Notes after (or before) a change."""
    return dict(apply_to_content(Content(notes), change, backwards=backwards).notes)


def plan_over(contour: Contour, level: np.ndarray, content: Content, keys: KeyMap) -> Plan:
    """The plan of a content over a contour and a level."""
    return build_plan(replace(NOTHING_FOUND, contour=contour, level_db=level), content, keys)


def pitch_correction(
    contour: Contour,
    notes: Sequence[Note],
    gestures: Mapping[str, Gesture],
    keys: KeyMap,
    level: np.ndarray | None = None,
) -> np.ndarray:
    """The correction that gestures ask of notes over a contour, without any air."""
    flat = np.zeros(len(contour.midi)) if level is None else level
    content = Content({n.id: EditedNote(n, gestures.get(n.id, Gesture())) for n in notes})
    return plan_over(contour, flat, content, keys).correction


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


def write_no_number(folder: Path) -> Path:
    """A second of silence with one sample that is not a number, which only reading it all finds."""
    path, samples = folder / "nan.wav", np.zeros((RATE, 1))
    samples[5] = np.nan
    sf.write(str(path), samples, RATE, subtype="FLOAT")
    return path


def _empty() -> Path:
    """A data folder with nothing in it: making one anew means going through every migration."""
    return kept_folder("empty", lambda folder: open_workspace(folder).close())


class FolderCase(unittest.TestCase):
    """A test with a folder of its own."""

    begun_with = staticmethod(_empty)  # makes the data folder that is copied

    def setUp(self) -> None:
        temporary = tempfile.TemporaryDirectory()
        self.addCleanup(temporary.cleanup)
        self.folder = Path(temporary.name)

    def workspace(self) -> Workspace:
        """A workspace in the folder."""
        folder = self.folder / "data"
        if not folder.exists():
            shutil.copytree(self.begun_with(), folder)
        opened = open_workspace(folder)
        self.addCleanup(opened.close)
        return opened
