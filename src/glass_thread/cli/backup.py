"""``glass-thread backup``: a copy of a data folder, also of one that is worked on."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..services.archive.backing_up import back_up
from ..services.folder.workspace import default_data_folder, existing_data_folder


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "backup", help="copy a data folder, also while it is worked on",
        description="Copy a data folder as it stands at one moment to a new folder, which can be opened with --data. "
        "The server may run meanwhile. Sign-in codes and the workers' token are not copied.",
    )  # fmt: skip
    parser.add_argument("target", type=Path, metavar="DIR", help="a folder that is not there yet")
    parser.add_argument("--data", type=Path, help="data folder (default: XDG data directory or $GLASS_THREAD_DATA)")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Copy and say how much."""
    done = back_up(existing_data_folder(chosen.data or default_data_folder()), chosen.target.resolve())
    print(f"{done.files} files are in {chosen.target}, {done.size / 1e6:.1f} MB.")
    return 0
