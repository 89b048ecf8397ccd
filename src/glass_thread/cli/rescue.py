"""``glass-thread rescue``: what can be read of a data folder whose database is damaged, in a new one."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..services.folder.folder_lock import folder_lock
from ..services.folder.workspace import existing_data_folder, open_workspace
from ..services.upkeep.checking import check_folder
from ..services.upkeep.rescue import rescue


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "rescue", help="save what can be read of a damaged data folder",
        description="Copy a data folder whose database is damaged into a new one, with every row that can still be "
        "read; the damaged one stays as it is. What had to be left out is told, and the new folder is looked through.",
    )  # fmt: skip
    parser.add_argument("folder", type=Path, metavar="DAMAGED", help="the folder as it is")
    parser.add_argument("new", type=Path, metavar="NEW", help="a folder that is not there yet")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """Save what can be saved; exit code 1 when something of it is out of order."""
    folder, new = existing_data_folder(chosen.folder), chosen.new.resolve()
    with folder_lock(folder):
        found = rescue(folder, new)
    for table in found.tables:
        broken = f", broken off {table.breaks} times" if table.breaks else ""
        print(f"{table.table}: {table.rows} rows{broken}")
    for words in found.told:
        print(words)
    workspace = open_workspace(new)
    try:
        trouble = [f"{one.about}: {one.trouble}" for one in check_folder(workspace, prints=False, mend=True)]
        songs = len(workspace.songs.all())
    finally:
        workspace.close()
    print(*trouble, f"{songs} songs are in {new}, {len(trouble) or 'nothing'} out of order.", sep="\n")
    return 1 if trouble else 0
