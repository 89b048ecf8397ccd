"""``glass-thread sheet``: the tuning sheet of a track."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from ..formats.atomic import write_bytes_whole
from ..services.report.tuning_sheet import TuningSheet, sheet_csv, sheet_data, sheet_of_version
from .versions import add_track_options, chosen_track, named_version


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "sheet",
        help="list every change of a track",
        description="Every change of a track, with before and after.",
    )
    add_track_options(parser)
    parser.add_argument("--version", default="Tuned", help="the version or comp (default Tuned)")
    parser.add_argument("--against", metavar="VERSION", help="another version (default: as sung)")
    parser.add_argument("--csv", type=Path, metavar="OUT", help="write CSV")
    parser.add_argument("--json", type=Path, metavar="OUT", help="write JSON")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Print the sheet, or write it."""
    with chosen_track(chosen) as (desk, track):
        version = named_version(desk, track, chosen.version)
        against = named_version(desk, track, chosen.against).id if chosen.against else None
        sheet = sheet_of_version(desk, track.id, version.id, against=against)
    if chosen.csv:
        write_bytes_whole(chosen.csv, sheet_csv(sheet).encode())
    if chosen.json:
        write_bytes_whole(chosen.json, json.dumps(sheet_data(sheet), ensure_ascii=False, indent=2).encode())
    if not chosen.csv and not chosen.json:
        _print(sheet)
    return 0


def _print(sheet: TuningSheet) -> None:
    print(f"{sheet.song}, {sheet.track}: {sheet.version} against {sheet.against}")
    print(f"{sheet.notes_changed} of {sheet.notes} notes changed, air and gaps: {sheet.air_changed}, "
          f"borrowed: {sheet.borrowed}")  # fmt: skip
    for phrase in sheet.phrases:
        print(f"\n{phrase.number + 1}  bar {phrase.bar}  {phrase.words}")
        for row in phrase.rows:
            cents = "" if row.before_cents is None else f"{row.before_cents:+.0f} to {row.after_cents:+.0f} ct  "
            print(f"  {row.bar:>6}  {row.what:<10} {cents.replace('-', '−')}{', '.join(row.changed)}")
