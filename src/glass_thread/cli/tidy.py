"""``glass-thread tidy``: take away files that no song uses any more."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..services.folder.folder_lock import folder_lock
from ..services.folder.workspace import default_data_folder, open_workspace, tidy


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "tidy", help="take away files that no song uses",
        description="Take away recordings, analyses and prints of removed songs, removed tracks and failed imports, "
        "and what an interrupted program left. The server does the same when it starts.",
    )  # fmt: skip
    parser.add_argument("--data", type=Path, help="data folder (default: XDG data directory or $GLASS_THREAD_DATA)")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Tidy and say what was taken away."""
    folder = (chosen.data or default_data_folder()).resolve()
    with folder_lock(folder):
        workspace = open_workspace(folder)
        try:
            workspace.audio.clean()
            swept = tidy(workspace)
        finally:
            workspace.close()
    print(f"{swept.files} files taken away, {swept.size / 1e6:.1f} MB.")
    return 0
