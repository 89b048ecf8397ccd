"""A song with all its history, recordings and prints, packed into one open archive."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ... import __version__
from ...core.signal.errors import AudioError, ConflictError, NotFoundError, ParameterError
from ...formats.atomic import write_whole
from ...formats.song_archive.writing import ArchiveWriter
from ...store.archive.rows import TABLES, SongRows, song_rows
from ...store.database import NEWEST
from ...store.records import Song
from ..folder.names import file_name
from ..folder.workspace import Workspace
from ..session.keys import title_of

ENDING = ".gtsong"


def song_named(workspace: Workspace, name: str) -> Song:
    """The song of an id or a title.

    Raises
    ------
    NotFoundError
        When there is none.
    ParameterError
        When several have the title.
    """
    found = [song for song in workspace.songs.all() if name in (song.id, song.title)]
    if not found:
        titles = ", ".join(f"“{song.title}”" for song in workspace.songs.all()[:10]) or "none"
        raise NotFoundError(f"There is no song “{name}” in this data folder; there is {titles}.")
    if len(found) > 1:
        ids = ", ".join(song.id for song in found)
        raise ParameterError(f"{len(found)} songs are called “{name}”; name one by its id: {ids}.")
    return found[0]


def pack(workspace: Workspace, song_id: str, target: Path) -> None:
    """Write a song as it stands to a file, whole or not at all; it may be worked on meanwhile.

    Raises
    ------
    NotFoundError
        When there is no such song.
    ConflictError
        While one of its tracks is still being looked at.
    AudioError
        When a file of it is missing from the data folder.
    """
    about = _about(workspace, workspace.songs.get(song_id))
    with song_rows(workspace.database, song_id) as rows:
        unready = rows.unready()
        if unready:
            raise ConflictError(f"“{unready[0]}” is still being looked at; pack the song when it is ready.")
        write_whole(target, lambda part: _write(workspace, about, rows, part))


def _write(workspace: Workspace, about: dict[str, Any], rows: SongRows, path: Path) -> None:
    with ArchiveWriter(path) as writer:
        recordings, analyses, prints = rows.files()
        for name in TABLES:
            writer.add_table(name, rows.of(name))
        for number, (audio, name) in enumerate(recordings.items(), 1):
            shown = f"recordings/{number:02d} {file_name(name)}"
            writer.add_file(shown, "recording", audio, workspace.audio.source(audio))
        for analysis in sorted(analyses):
            path_there = workspace.analyses.path(analysis)
            if not path_there.is_file():
                raise AudioError("What was found in a recording is missing from the data folder; open its track first.")
            writer.add_file(f"analyses/{analysis}.npz", "analysis", analysis, path_there)
        for number, (file, name) in enumerate(prints.items(), 1):
            source = workspace.audio.print_path(file)
            if source.is_file():  # a print that was taken away by hand leaves its row
                writer.add_file(f"prints/{number:02d} {file_name(name)}", "print", file, source)
        writer.finish(about, f"Glass Thread {__version__}", NEWEST)


def _about(workspace: Workspace, song: Song) -> dict[str, Any]:
    """The song in words, for whoever opens the archive by hand."""
    tracks = workspace.tracks.of_song(song.id)
    return {"title": song.title, "key": title_of(song) if song.key_chosen else None,
            "tempo": song.tempo if song.tempo_chosen else None,
            "tracks": [{"name": one.name, "role": one.role, "duration_s": round(one.duration_s, 3)}
                       for one in tracks]}  # fmt: skip
