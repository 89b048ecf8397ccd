"""``glass-thread pack`` and ``unpack``: a song in one file, and back."""

from __future__ import annotations

import argparse
from pathlib import Path

from ..core.signal.errors import ParameterError
from ..services.archive.packing import pack, song_named
from ..services.archive.unpacking import unpack
from ..services.folder.workspace import default_data_folder, existing_data_folder, open_workspace


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verbs."""
    packing = verbs.add_parser(
        "pack", help="pack a song into one file",
        description="Pack a song with its recordings, all steps, versions, comps, links and prints into one open "
        "archive: a zip whose layout docs/song-archive.md describes. The song may be open meanwhile.",
    )  # fmt: skip
    packing.add_argument("song", metavar="SONG", help="title or id of the song")
    packing.add_argument("target", type=Path, metavar="OUT.gtsong")
    packing.set_defaults(run=run_pack)
    unpacking = verbs.add_parser(
        "unpack", help="unpack a song",
        description="Unpack a song into a data folder, beside one of the same name: whole or not at all.",
    )  # fmt: skip
    unpacking.add_argument("source", type=Path, metavar="IN.gtsong")
    unpacking.set_defaults(run=run_unpack)
    for parser in (packing, unpacking):
        parser.add_argument("--data", type=Path, help="data folder (default: XDG data directory or $GLASS_THREAD_DATA)")


def run_pack(chosen: argparse.Namespace) -> int:
    """Pack a song and say what came of it."""
    workspace = open_workspace(existing_data_folder(chosen.data or default_data_folder()))
    try:
        song = song_named(workspace, chosen.song)
        if not chosen.target.resolve().parent.is_dir():
            raise ParameterError(f"There is no folder {chosen.target.resolve().parent}.")
        pack(workspace, song.id, chosen.target.resolve())
    finally:
        workspace.close()
    print(f"“{song.title}” is in {chosen.target}, {chosen.target.stat().st_size / 1e6:.1f} MB.")
    return 0


def run_unpack(chosen: argparse.Namespace) -> int:
    """Unpack a song and say which."""
    if not chosen.source.is_file():
        raise ParameterError(f"There is no file {chosen.source}.")
    workspace = open_workspace((chosen.data or default_data_folder()).resolve())
    try:
        song = unpack(workspace, chosen.source)
        tracks = len(workspace.tracks.of_song(song.id))
    finally:
        workspace.close()
    print(f"“{song.title}” with {tracks} tracks is in the data folder; its id is {song.id}.")
    return 0
