"""``glass-thread versions``: the versions of the tracks in a data folder."""

from __future__ import annotations

import argparse
import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from ..core.signal.errors import NotFoundError
from ..core.signal.units import pitch_label
from ..services.folder.workspace import default_data_folder, open_workspace
from ..services.history.comps import list_comps
from ..services.history.versions import NoteDifference, compare, list_versions, make_version
from ..services.session.desk import Desk
from ..store.records import Track, Version

DATA_HELP = "data folder (default: XDG data directory or $GLASS_THREAD_DATA)"


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser(
        "versions", help="list, make and compare versions", description="List, make and compare versions of tracks.",
    )  # fmt: skip
    parser.add_argument("--data", type=Path, help=DATA_HELP)
    parser.add_argument("--song", help="only this song, by title")
    parser.add_argument("--track", help="only this track, by name")
    parser.add_argument("--make", metavar="NAME", help="make a version of the track")
    parser.add_argument("--begin", metavar="VERSION", default="Tuned", help="where the new one begins (default Tuned)")
    parser.add_argument("--compare", nargs=2, metavar="VERSION", help="notes that two versions treat differently")
    parser.add_argument("--json", action="store_true", help="print JSON")
    parser.set_defaults(run=run)


def run(chosen: argparse.Namespace) -> int:
    """List, make or compare."""
    workspace = open_workspace(chosen.data or default_data_folder())
    try:
        desk = Desk(workspace)
        tracks = tracks_named(desk, chosen.song, chosen.track)
        if chosen.compare:
            _print(_compared(desk, only_track(tracks), *chosen.compare), chosen.json)
            return 0
        if chosen.make:
            track = only_track(tracks)
            begin = named_version(desk, track, chosen.begin)
            make_version(desk, track.id, chosen.make, from_version=begin.id)
        rows = [
            _row(desk, title, track, version) for title, track in tracks for version in list_versions(desk, track.id)
        ]
        _print(rows, chosen.json)
    finally:
        workspace.close()
    return 0


def tracks_named(desk: Desk, song: str | None, name: str | None) -> list[tuple[str, Track]]:
    """Vocals with the titles of their songs; all that fit what is named."""
    found = [
        (one.title, track)
        for one in desk.workspace.songs.all()
        for track in desk.workspace.tracks.of_song(one.id)
        if track.analysis_id and song in (None, one.title) and name in (None, track.name)
    ]
    if not found:
        raise NotFoundError("There is no vocal of that name in the data folder.")
    return found


def only_track(tracks: list[tuple[str, Track]]) -> Track:
    """The one track there is among some."""
    if len(tracks) != 1:
        raise NotFoundError("Name one track with --track, and its song with --song when several have it.")
    return tracks[0][1]


def add_track_options(parser: argparse.ArgumentParser) -> None:
    """The options that name one track of a data folder."""
    parser.add_argument("--data", type=Path, help=DATA_HELP)
    parser.add_argument("--song", help="the song, by title")
    parser.add_argument("--track", help="the track, by name")


@contextmanager
def chosen_track(chosen: argparse.Namespace) -> Iterator[tuple[Desk, Track]]:
    """The track that the options name, and a desk over its data folder."""
    workspace = open_workspace(chosen.data or default_data_folder())
    try:
        desk = Desk(workspace)
        yield desk, only_track(tracks_named(desk, chosen.song, chosen.track))
    finally:
        workspace.close()


def named_version(desk: Desk, track: Track, name: str) -> Version:
    """A version or comp of a track by its name."""
    for version in (*list_versions(desk, track.id), *list_comps(desk, track.id)):
        if version.name == name:
            return version
    raise NotFoundError(f"“{track.name}” has no version “{name}”.")


def _row(desk: Desk, title: str, track: Track, version: Version) -> dict[str, Any]:
    head = desk.workspace.history.place(version.head_id)
    return {"song": title, "track": track.name, "version": version.name, "steps": head.number, "last": head.label,
            "open": version.id == track.version_id, "note": version.note}  # fmt: skip


def _compared(desk: Desk, track: Track, first: str, second: str) -> list[dict[str, Any]]:
    heads = [named_version(desk, track, name).head_id for name in (first, second)]

    def pitch(difference: NoteDifference, side: int) -> str | None:
        midi = difference.tuned[side]
        return None if midi is None else pitch_label(midi)

    return [{"start_s": round(one.start_s, 3), "note": one.note_id, first: pitch(one, 0), second: pitch(one, 1)}
            for one in compare(desk, track.id, *heads)]  # fmt: skip


def _print(rows: list[dict[str, Any]], as_json: bool) -> None:
    if as_json:
        print(json.dumps(rows, ensure_ascii=False, indent=2))
        return
    for row in rows:
        print("  ".join(f"{name}: {value}" for name, value in row.items() if value not in ("", None, False)))
    if not rows:
        print("No note differs.")
