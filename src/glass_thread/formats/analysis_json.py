"""What was found in a recording, as JSON and as CSV."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np

from ..core.signal.levels import is_band_limited
from ..core.signal.types import Analysis, Contour
from ..core.signal.units import pitch_name
from .csv_table import csv_table
from .plain_data import note_to_data

ANALYSIS_FORMAT, VERSION = "glass-thread-analysis", 1


def analysis_document(analysis: Analysis) -> dict[str, Any]:
    """The document that `glass-thread analyse --json` writes."""
    midi = [None if np.isnan(value) else round(float(value), 4) for value in analysis.contour.midi]
    tonic = analysis.keys[0] if analysis.keys else None
    candidates = [{"tonic": pitch_name(60 + k.tonic)[:-1], "scale": k.scale, "confidence": round(k.confidence, 4)}
                  for k in analysis.keys]  # fmt: skip
    return {
        "format": ANALYSIS_FORMAT,
        "version": VERSION,
        "sample_rate": analysis.sample_rate,
        "duration_s": analysis.duration_s,
        "f0": {
            "hop_s": analysis.contour.hop_s,
            "start_s": 0.0,
            "midi": midi,
            "confidence": [round(float(c), 3) for c in analysis.contour.confidence],
        },
        "notes": [note_to_data(note) for note in analysis.notes],
        "air": [asdict(event) for event in analysis.air],
        "phrases": [asdict(phrase) for phrase in analysis.phrases],
        "key": {
            "tonic": candidates[0]["tonic"] if tonic else None,
            "scale": tonic.scale if tonic else None,
            "confidence": tonic.confidence if tonic else 0.0,
            "candidates": candidates,
        },
        "reference_hz": analysis.reference_hz,
        "polyphonic": analysis.polyphonic,
        "band_limited": is_band_limited(analysis.level_db, analysis.high_db),
    }


def contour_csv(contour: Contour) -> str:
    """CSV with the columns time_s, midi, confidence; midi is empty where unvoiced."""
    frames = zip(contour.times, contour.midi, contour.confidence, strict=True)
    rows = ((f"{at:.3f}", "" if np.isnan(midi) else f"{midi:.4f}", f"{sure:.3f}") for at, midi, sure in frames)
    return csv_table(("time_s", "midi", "confidence"), rows, line_end="\n")
