"""``glass-thread analyse``."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from ..core.signal.errors import ParameterError
from ..core.signal.levels import is_band_limited
from ..core.signal.units import pitch_label
from ..formats.analysis_json import analysis_document, contour_csv
from ..formats.atomic import save
from ..services.song.import_audio import analyse_path


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser("analyse", help="find pitch, notes, air and key in a recording",
                              description="Find pitch, notes, air and key in a recording.")  # fmt: skip
    parser.add_argument("source", type=Path, metavar="IN.wav")
    parser.add_argument("--json", type=Path, metavar="OUT.json", help="write everything found")
    parser.add_argument("--f0", type=Path, metavar="OUT.csv", help="write the pitch curve")
    parser.add_argument("--sensitivity", type=float, default=0.0, help="more (+) or fewer (−) notes, −3 to 3")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Analyse and report."""
    if not -3.0 <= chosen.sensitivity <= 3.0:
        raise ParameterError("Sensitivity must be between −3 and 3.")
    analysis = analyse_path(chosen.source, sensitivity=chosen.sensitivity)
    if chosen.json:
        save(chosen.json, json.dumps(analysis_document(analysis)).encode())
    if chosen.f0:
        save(chosen.f0, contour_csv(analysis.contour).encode())
    key = analysis_document(analysis)["key"]
    print(
        f"{analysis.duration_s:.1f} s, {len(analysis.notes)} notes in {len(analysis.phrases)} phrases, "
        f"{len(analysis.air)} air events, key {key['tonic']} {key['scale']}, A4 = {analysis.reference_hz:.1f} Hz"
    )
    if analysis.polyphonic:
        print("This does not sound like one voice; what was found is uncertain.")
    if is_band_limited(analysis.level_db, analysis.high_db):
        print("Nothing above 5 kHz was recorded: sibilants cannot be told from other consonants.")
    if analysis.notes:
        pitches = [note.centre_midi for note in analysis.notes]
        print(f"from {pitch_label(min(pitches))} to {pitch_label(max(pitches))}")
    return 0
