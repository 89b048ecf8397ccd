"""``glass-thread chords``."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from ..core.signal.validation import in_range
from ..formats.atomic import save
from ..services.files.chords_file import chord_rows, chords_of_file


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "chords", help="hear the chords of a backing",
        description="Hear the chords of a backing, beat by beat; labels in the syntax of Harte et al. (ISMIR 2005).",
    )  # fmt: skip
    parser.add_argument("source", type=Path, metavar="BACKING.wav")
    parser.add_argument("--tempo", type=float, metavar="BPM", help="beats a minute (default: as heard)")
    parser.add_argument("--json", type=Path, metavar="OUT.json", help="write the chords with how sure they are")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Hear them and say them, a line each."""
    if chosen.tempo is not None:
        in_range(chosen.tempo, 20.0, 400.0, "The tempo (beats a minute)")
    chords, meter = chords_of_file(chosen.source, chosen.tempo)
    rows = chord_rows(chords)
    if chosen.json:
        save(chosen.json, json.dumps({"chords": rows}).encode())
    for row in rows:
        print(f"{row['start_s']:8.3f} {row['end_s']:8.3f}  {row['label']:8} {row['confidence']:.0%}")
    print(f"{len(rows)} chords at {meter.tempo:.1f} bpm, bar 1 at {meter.start_s:.3f} s")
    return 0
