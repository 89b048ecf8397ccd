"""``glass-thread midi``."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..core.signal.validation import in_range
from ..core.song.beats import Meter
from ..formats.atomic import save
from ..formats.midi_melody import MelodyNote, melody_file
from ..services.files.tune_file import likely_keys
from ..services.prints.interchange import velocities
from ..services.song.import_audio import analyse_path


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser("midi", help="write a recording's melody as MIDI",
                              description="Write the melody of a recording as a Standard MIDI file.")  # fmt: skip
    parser.add_argument("source", type=Path, metavar="IN.wav")
    parser.add_argument("target", type=Path, metavar="OUT.mid")
    parser.add_argument("--tempo", type=float, default=120.0, metavar="BPM", help="beats a minute (default 120)")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Find the notes and write them; bar 1 is where the recording begins."""
    in_range(chosen.tempo, 20.0, 400.0, "The tempo (beats a minute)")
    analysis = analyse_path(chosen.source)
    loud = velocities([note.level_db for note in analysis.notes])
    notes = [MelodyNote(note.start_s, note.end_s, max(0, min(127, round(note.centre_midi))), velocity)
             for note, velocity in zip(analysis.notes, loud, strict=True)]  # fmt: skip
    data = melody_file(notes, (Meter(0.0, chosen.tempo),), likely_keys(analysis), title=chosen.source.stem)
    save(chosen.target, data)
    print(f"{len(notes)} notes at {chosen.tempo:g} bpm")
    return 0
