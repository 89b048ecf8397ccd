"""``glass-thread follow``: make one recording follow another one."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from ..formats.atomic import write_bytes_whole
from ..services.files.follow_file import follow_file
from .tune import add_peak_options


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "follow", help="make a recording follow another one",
        description="Bring a recording to where, how high and how loud another one of the same words is.",
    )  # fmt: skip
    parser.add_argument("lead", type=Path, metavar="LEAD.wav")
    parser.add_argument("follower", type=Path, metavar="FOLLOWER.wav")
    parser.add_argument("target", type=Path, metavar="OUT.wav")
    parser.add_argument("--timing", type=float, default=1.0, help="how far times follow, 0 to 1 (default 1)")
    parser.add_argument("--pitch", type=float, default=0.0, help="how far pitches follow, 0 to 1 (default 0)")
    parser.add_argument("--level", type=float, default=0.0, help="how far levels follow, 0 to 1 (default 0)")
    parser.add_argument("--movement", action="store_true", help="the whole way of the pitch follows")
    add_peak_options(parser)
    parser.add_argument("--json", type=Path, metavar="OUT.json", help="write what belongs together")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Follow, and say what came of it in one line."""
    report = follow_file(
        chosen.lead, chosen.follower, chosen.target, timing=chosen.timing, pitch=chosen.pitch, level=chosen.level,
        movement=chosen.movement, lower_db=chosen.lower, as_float=chosen.as_float,
    )  # fmt: skip
    if chosen.json:
        write_bytes_whole(chosen.json, json.dumps(report.data, indent=2).encode())
    summary, alone = report.summary, len(report.data["unmatched"])
    same = f"{100 * summary.untouched_share:.2f} % of samples bit-identical"
    print(f"{summary.notes_changed} notes follow, {alone} sung by one only, {same}, peak {summary.peak_dbfs:.1f} dBFS")
    return 0
