"""Data folders that a release leaves in the tests, so that every later one is known to open them.

``python -m tests.store.kept_folder NAME`` writes one of the present program: a song on which everything was done that
`DrawnHistory` draws, with prints, and beside it what it told then.  Done once a layout; never over an older one.
"""

from __future__ import annotations

import json
import random
import sys
import tarfile
import tempfile
from pathlib import Path
from typing import Any

from glass_thread.bench.hostile.attack import begin_with_two_takes
from glass_thread.bench.hostile.histories import DrawnHistory
from glass_thread.formats.plain_data import content_to_data
from glass_thread.services.folder.workspace import Workspace, open_workspace
from glass_thread.services.history.versions import list_versions
from glass_thread.services.prints.printing import request_print
from glass_thread.services.session.desk import Desk
from glass_thread.services.work.here import run_task

KEPT = Path(__file__).parent / "kept"
STEPS, EVERY = 400, 20


def told(workspace: Workspace) -> dict[str, Any]:
    """What a folder tells of its songs: values, steps, contents of every version and every step, corrections."""
    desk, log = Desk(workspace), workspace.log
    songs = workspace.songs.all()
    return {
        "songs": [{"title": s.title, "tempo": s.tempo, "tonic": s.tonic, "scale": s.scale} for s in songs],
        "song steps": [[one.label, one.state] for song in songs for one in log.all(song.id)],
        "tracks": [_track_told(desk, track.id) for song in songs for track in workspace.tracks.of_song(song.id)],
        "prints": [[one.shown_name, one.figures] for song in songs for one in workspace.prints.of_song(song.id)],
    }


def _track_told(desk: Desk, track_id: str) -> dict[str, Any]:
    track, history = desk.track(track_id), desk.workspace.history
    versions = [*history.versions(track_id), *(one for one in list_versions(desk, track_id) if one.is_comp)]
    return {
        "name": track.name, "role": track.role, "offset_s": track.offset_s,
        "versions": [_version_told(desk, track_id, one.id) for one in versions],
    }  # fmt: skip


def _version_told(desk: Desk, track_id: str, version_id: str) -> dict[str, Any]:
    version = desk.workspace.history.version(version_id)
    standing = desk.at(track_id, version.head_id)
    correction = [] if version.is_comp else desk.plan(standing).correction[::EVERY].round(6).tolist()
    path = desk.workspace.history.path(version.tip_id, most=10_000)
    return {
        "name": version.name, "kind": version.kind, "labels": [one.label for one in path],
        "head": [one.id for one in path].index(version.head_id),
        "content": content_to_data(standing.content), "correction": correction,
    }  # fmt: skip


def write(name: str) -> None:
    """Keep a folder of the present program under a name that is not taken."""
    place = KEPT / name
    place.mkdir(parents=True)
    with tempfile.TemporaryDirectory() as folder:
        data = Path(folder) / "data"
        begin_with_two_takes(data)
        workspace = open_workspace(data)
        history = DrawnHistory(workspace, random.Random(14))
        for number in range(STEPS):
            history.step()
            if number % 100 == 50:
                track = history.tracks()[0]
                task = request_print(history.desk, track.id, {"container": "flac", "bits": 16, "lower_db": 0.0})
                run_task(workspace, task.id)
        (place / "told.json").write_text(json.dumps(told(workspace), indent=1) + "\n")
        workspace.close()
        with tarfile.open(place / "data.tar.xz", "w:xz") as packed:
            for path in sorted(data.iterdir()):
                packed.add(path, path.name)


if __name__ == "__main__":
    write(sys.argv[1])
