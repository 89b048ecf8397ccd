"""``glass-thread singer``: what a singer tends to do."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..formats.atomic import write_bytes_whole
from ..services.report.singer_notes import SCOPES, SingerNotes, notes_csv, singer_notes
from .versions import add_track_options, chosen_track


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "singer",
        help="say what a singer tends to do",
        description="What a singer tends to do, claimed only where the notes carry it, with places to hear.",
    )
    add_track_options(parser)
    parser.add_argument("--scope", choices=SCOPES, default="take", help="this take (default), its song, or all songs")
    parser.add_argument("--csv", type=Path, metavar="OUT", help="write the numbers behind it")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Print the notes, or write their numbers."""
    with chosen_track(chosen) as (desk, track):
        found = singer_notes(desk, track.id, chosen.scope)
    if chosen.csv:
        write_bytes_whole(chosen.csv, notes_csv(found).encode())
    else:
        _print(found)
    return 0


def _print(found: SingerNotes) -> None:
    print(f"{found.singer}: {found.notes} notes of {found.takes} {'take' if found.takes == 1 else 'takes'}")
    for told in found.told:
        claim = told.claim
        bounds = f"{claim.low:.1f} to {claim.high:.1f} {claim.unit}".replace("-", "−")
        print(f"\n{claim.words} ({claim.count} of {claim.of}); between {bounds}")
        print(f"  clearest at bars {', '.join(place.bar for place in told.clearest)}")
        if claim.practise:
            print(f"  {claim.practise}")
        if told.change:
            print(f"  over time: {told.change}")
