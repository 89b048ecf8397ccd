"""``glass-thread tidy``: take away files that no song uses any more."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..services.folder.folder_lock import folder_lock
from ..services.folder.workspace import Workspace, default_data_folder, open_workspace, tidy
from ..services.song.removed import removed, sweep_removed


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "tidy", help="take away files that no song uses",
        description="Take away recordings, analyses and prints of removed songs, removed tracks and failed imports, "
        "and what an interrupted program left. The server does the same when it starts. With --removed, removed songs "
        "and tracks themselves are taken away for good, after asking.",
    )  # fmt: skip
    parser.add_argument("--removed", action="store_true", help="sweep away what was removed; it cannot be brought back")
    parser.add_argument("--yes", action="store_true", help="do not ask")
    parser.add_argument("--data", type=Path, help="data folder (default: XDG data directory or $GLASS_THREAD_DATA)")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Tidy and say what was taken away."""
    folder = (chosen.data or default_data_folder()).resolve()
    with folder_lock(folder):
        workspace = open_workspace(folder)
        try:
            workspace.audio.clean()
            if chosen.removed and not _agreed(workspace, chosen.yes):
                return 1
            swept = sweep_removed(workspace) if chosen.removed else tidy(workspace)
        finally:
            workspace.close()
    print(f"{swept.files} files taken away, {swept.size / 1e6:.1f} MB.")
    return 0


def _agreed(workspace: Workspace, already: bool) -> bool:
    """Whether what was removed may be taken away for good."""
    gone = removed(workspace)
    for one in gone:
        print(f"{one.kind} “{one.name}”" + (f" of “{one.song}”" if one.kind == "track" else ""))
    if already or not gone:
        return True
    return input("Sweep these away for good? [y/N] ").strip().lower() in ("y", "yes")
