"""``glass-thread check``: look a data folder through."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from ..services.folder.folder_lock import folder_lock
from ..services.folder.workspace import default_data_folder, existing_data_folder, open_workspace
from ..services.upkeep.checking import check_folder


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "check", help="look a data folder through",
        description="Compare recordings with their hashes, versions with their steps replayed from the first on, plans "
        "and sound that were derived step by step with those worked out anew, and prints with what they were made of. "
        "Nothing is changed without --mend. The exit code is 1 when something is not as it should be.",
    )  # fmt: skip
    parser.add_argument("--data", type=Path, help="data folder (default: XDG data directory or $GLASS_THREAD_DATA)")
    parser.add_argument("--no-prints", action="store_true", help="leave prints out, which take longest")
    parser.add_argument("--mend", action="store_true", help="make anew what can be: what is kept of steps")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Say what is found, a line each."""
    folder = existing_data_folder(chosen.data or default_data_folder())
    found = 0
    with folder_lock(folder):
        workspace = open_workspace(folder)
        try:
            workspace.database.refuse_damage()
            for one in check_folder(workspace, prints=not chosen.no_prints, mend=chosen.mend):
                found += 1
                print(f"{one.about}: {one.trouble} {one.mend or 'It cannot be mended from here.'}", flush=True)
            songs = len(workspace.songs.all())
        finally:
            workspace.close()
    print(f"{songs} songs looked through, {found or 'nothing'} out of order.", file=sys.stderr if found else sys.stdout)
    return 1 if found else 0
