"""Analyses on disk, by the audio's hash and the analysis version."""

from __future__ import annotations

import json
import zipfile
import zlib
from dataclasses import asdict
from pathlib import Path

import numpy as np

from ...core.analysis.analysis import ANALYSIS_VERSION
from ...core.signal.types import AirEvent, Analysis, Contour, KeyCandidate, Phrase
from ...formats.plain_data import note_from_data, note_to_data
from ..byte_cache import ByteCache
from .audio_files import content_name

HELD_BYTES = 128 << 20
_NOTE_BYTES = 400


def _bytes_of(analysis: Analysis) -> int:
    arrays = (analysis.contour.midi, analysis.contour.confidence, analysis.level_db, analysis.high_db, analysis.outline)
    return sum(array.nbytes for array in arrays) + _NOTE_BYTES * (len(analysis.notes) + len(analysis.air))


def analysis_id_of(audio_hash: str) -> str:
    """The id of what this version of the program finds in a recording."""
    return f"{audio_hash}-{ANALYSIS_VERSION}"


class AnalysisCache:
    """Folder of finished analyses, by id."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder / "analysis"
        self._folder.mkdir(parents=True, exist_ok=True)
        self._held: ByteCache[Analysis] = ByteCache(HELD_BYTES, _bytes_of)

    def path(self, analysis_id: str) -> Path:
        """Where an analysis is kept, as a file that `write_analysis` wrote."""
        return self._folder / f"{content_name(analysis_id)}.npz"

    def load(self, analysis_id: str) -> Analysis | None:
        """The stored analysis, or None when it is missing or damaged."""
        path = self.path(analysis_id)
        try:
            stamp = path.stat().st_mtime_ns
        except OSError:
            return None
        known = self._held.get((analysis_id, stamp))
        if known is None:
            known = read_analysis(path)
            if known is not None:
                self._held.keep((analysis_id, stamp), known)
        return known


def write_analysis(path: Path, analysis: Analysis) -> None:
    """Write an analysis; the same one gives the same bytes on every machine."""
    head = {
        "sample_rate": analysis.sample_rate,
        "duration_s": analysis.duration_s,
        "notes": [note_to_data(note) for note in analysis.notes],
        "air": [asdict(event) for event in analysis.air],
        "phrases": [asdict(phrase) for phrase in analysis.phrases],
        "keys": [asdict(key) for key in analysis.keys],
        "reference_hz": analysis.reference_hz,
        "polyphonic": analysis.polyphonic,
        "hop_s": analysis.contour.hop_s,
    }
    with path.open("wb") as file:
        np.savez(
            file, head=np.array(json.dumps(head)), midi=analysis.contour.midi,
            confidence=analysis.contour.confidence, level=analysis.level_db, high=analysis.high_db,
            outline=analysis.outline,
        )  # fmt: skip


def read_analysis(path: Path) -> Analysis | None:
    """A file that `write_analysis` wrote, or None when it is missing or damaged."""
    try:
        with path.open("rb") as file, np.load(file, allow_pickle=False) as data:
            head = json.loads(str(data["head"]))
            contour = Contour(data["midi"], data["confidence"], head["hop_s"])
            level = data["level"]
            high = data["high"] if "high" in data else np.full(len(level), -120.0)
            outline = data["outline"] if "outline" in data else np.zeros((0, 2), dtype=np.int8)
    except (OSError, ValueError, KeyError, EOFError, zipfile.BadZipFile, zlib.error):
        return None
    for array in (contour.midi, contour.confidence, level, high, outline):
        array.flags.writeable = False
    return Analysis(
        head["sample_rate"], head["duration_s"], contour,
        tuple(note_from_data(note) for note in head["notes"]),
        tuple(AirEvent(**event) for event in head["air"]),
        tuple(Phrase(**phrase) for phrase in head["phrases"]),
        tuple(KeyCandidate(**key) for key in head["keys"]),
        head["reference_hz"], level, head["polyphonic"], high, outline,
    )  # fmt: skip
