"""Analyses on disk, by the audio's hash and the analysis version."""

from __future__ import annotations

import json
import os
import uuid
from dataclasses import asdict
from functools import lru_cache
from pathlib import Path

import numpy as np

from ..core.analysis.analysis import ANALYSIS_VERSION
from ..core.signal.types import AirEvent, Analysis, Contour, KeyCandidate, Phrase
from ..formats.documents import note_from_data, note_to_data


class AnalysisCache:
    """Folder of finished analyses."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder / "analysis"
        self._folder.mkdir(parents=True, exist_ok=True)

    def _path(self, audio_hash: str, version: int = ANALYSIS_VERSION) -> Path:
        return self._folder / f"{audio_hash}-{version}.npz"

    def load(self, audio_hash: str) -> Analysis | None:
        """The stored analysis, or None when there is none that can be read."""
        for version in range(ANALYSIS_VERSION, 0, -1):  # edits refer to the notes of the analysis they were made on
            path = self._path(audio_hash, version)
            if path.is_file():
                return _load(path)
        return None

    def save(self, audio_hash: str, analysis: Analysis) -> None:
        """Store an analysis; the file appears whole or not at all."""
        temporary = self._folder / f"{uuid.uuid4().hex}.tmp.npz"
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
        np.savez(
            temporary, head=np.array(json.dumps(head)), midi=analysis.contour.midi,
            confidence=analysis.contour.confidence, level=analysis.level_db, high=analysis.high_db,
        )  # fmt: skip
        os.replace(temporary, self._path(audio_hash))


@lru_cache(maxsize=16)
def _load(path: Path) -> Analysis | None:
    try:
        with np.load(path, allow_pickle=False) as data:
            head = json.loads(str(data["head"]))
            contour = Contour(data["midi"], data["confidence"], head["hop_s"])
            level = data["level"]
            high = data["high"] if "high" in data else np.full(len(level), -120.0)
    except (OSError, ValueError, KeyError):
        return None
    for array in (contour.midi, contour.confidence, level, high):
        array.flags.writeable = False
    return Analysis(
        head["sample_rate"], head["duration_s"], contour,
        tuple(note_from_data(note) for note in head["notes"]),
        tuple(AirEvent(**event) for event in head["air"]),
        tuple(Phrase(**phrase) for phrase in head["phrases"]),
        tuple(KeyCandidate(**key) for key in head["keys"]),
        head["reference_hz"], level, head["polyphonic"], high,
    )  # fmt: skip
