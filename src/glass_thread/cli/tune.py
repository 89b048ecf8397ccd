"""``glass-thread tune``."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..core.document.operations.schema import help_text
from ..services.files.tune_file import Wanted, tune_file
from .key_options import add_key_options, asked_keys


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser("tune", help="tune a recording", description="Tune a recording into a new file.")
    parser.add_argument("source", type=Path, metavar="IN.wav")
    parser.add_argument("target", type=Path, metavar="OUT.wav")
    parser.add_argument(
        "--pull", type=float, default=1.0, help="how far centres go to their targets, 0 to 1 (default 1)"
    )
    parser.add_argument("--drift", type=float, default=1.0, help="factor on drift, 0 to 2 (default 1, as sung)")
    parser.add_argument("--vibrato", type=float, default=1.0, help="factor on vibrato, 0 to 3 (default 1, as sung)")
    parser.add_argument(
        "--movement", type=float, default=1.0, help="factor on drift and vibrato together, 0 to 2 (default 1)"
    )
    parser.add_argument(
        "--within", type=float, default=0.0, metavar="CENTS", help="pull only to within so many cents of targets"
    )
    add_key_options(parser)
    parser.add_argument("--rounding", choices=("scale", "semitone"), default="scale")
    parser.add_argument("--curve", type=Path, metavar="CURVE.csv", help="columns time_s,target_midi: follow this curve")
    parser.add_argument("--edits", type=Path, metavar="EDITS.json", help="an edit document, as the API takes it")
    parser.add_argument(
        "--time", type=Path, metavar="MAP.csv",
        help="columns source_s,track_s: moments of the recording and where they go; between them silence gives way "
        "first, then breaths, then vowels",
    )  # fmt: skip
    parser.add_argument(
        "--settle", type=float, metavar="MS", help="glaze over everything, on top: 63 %% of the way in this time"
    )
    parser.add_argument("--tolerance", type=float, metavar="CENTS", help="what the glaze leaves alone (default 12)")
    add_peak_options(parser)
    parser.add_argument("--help-edits", action=_HelpEdits, nargs=0, help="list all edit operations and exit")
    parser.set_defaults(run=run)


def add_peak_options(parser: argparse.ArgumentParser) -> None:
    """What to do with a peak over full scale."""
    over = parser.add_mutually_exclusive_group()
    over.add_argument("--lower", type=float, default=0.0, metavar="DB", help="lower the whole print")
    over.add_argument("--float", action="store_true", dest="as_float", help="keep 32-bit float")


class _HelpEdits(argparse.Action):
    """Prints every operation an edit document may hold."""

    def __call__(self, parser: argparse.ArgumentParser, *_rest: object) -> None:
        print(help_text())
        parser.exit()


def run(chosen: argparse.Namespace) -> int:
    """Tune and report in one line."""
    wanted = Wanted(
        chosen.pull, chosen.drift, chosen.vibrato, chosen.movement, chosen.within, chosen.rounding, chosen.curve,
        chosen.edits, chosen.time, chosen.settle, chosen.tolerance,
    )  # fmt: skip
    keys, temper = asked_keys(chosen)
    summary = tune_file(
        chosen.source, chosen.target, wanted, keys=keys, temper=temper, lower_db=chosen.lower, as_float=chosen.as_float,
    )  # fmt: skip
    air = f" and {summary.air_changed} air events, gaps and stretches" if summary.air_changed else ""
    moved = f" in place and {100 * summary.moved_share:.2f} % moved" if summary.moved_share else ""
    off_s = sum(b - a for a, b in summary.displaced)
    off = f", {off_s:.2f} s after short notes up to half a cycle off their place" if off_s else ""
    print(
        f"{summary.notes_changed} notes{air} changed, "
        f"{100 * summary.untouched_share:.2f} % of samples bit-identical{moved}, "
        f"peak {summary.peak_dbfs:.1f} dBFS{off}"
    )
    return 0
