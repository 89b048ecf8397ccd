"""Songs as archives: packed for another machine, and unpacked from one."""

from __future__ import annotations

import threading
from typing import Any

from apiflask import APIBlueprint
from flask import Response, abort, current_app, send_file

from ..services.archive.packing import ENDING, pack
from ..services.archive.unpacking import unpack
from ..services.folder.names import file_name
from .context import workspace
from .schemas.songs import ArchiveIn, SongOut
from .songs import open_song_data

archive_routes = APIBlueprint("archives", __name__, tag="Songs")


def _packing() -> threading.Lock:
    return current_app.extensions["packing"]


@archive_routes.get("/songs/<song_id>/archive")
@archive_routes.doc(responses={200: "The song with all of its history, as docs/song-archive.md describes it"})
def get_archive(song_id: str) -> Response:
    """A song with its recordings, steps, versions, comps, links and prints in one file."""
    title = workspace().songs.get(song_id).title
    path = workspace().audio.new_incoming()
    if not _packing().acquire(blocking=False):  # each needs room on the disk, and whoever waits keeps others waiting
        abort(503, "Another song is being packed; do it again in a moment.")
    try:
        pack(workspace(), song_id, path)
        file = path.open("rb")  # what is open is sent to its end, whatever becomes of its name
    finally:
        _packing().release()
        path.unlink(missing_ok=True)
    return send_file(file, mimetype="application/zip", as_attachment=True, download_name=file_name(f"{title}{ENDING}"))


@archive_routes.post("/archives")
@archive_routes.input(ArchiveIn, location="files")
@archive_routes.output(SongOut, status_code=201)
def post_archive(files_data: dict[str, Any]) -> dict[str, Any]:
    """Unpack a song, whole or not at all; it stands beside one of the same name."""
    incoming = workspace().audio.receive(files_data["file"].stream)
    try:
        return open_song_data(unpack(workspace(), incoming))
    finally:
        incoming.unlink(missing_ok=True)
