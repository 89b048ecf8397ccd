"""A song archive unpacked into a data folder: whole or not at all, and only after all of it was looked at."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

from ...core.signal.errors import GlassThreadError, ParameterError
from ...formats.atomic import put_in_place
from ...formats.song_archive.manifest import Member, broken
from ...formats.song_archive.reading import ArchiveReader
from ...store.archive.staging import staged
from ...store.archive.taking_in import forget_folders, new_names, renamed, take_in
from ...store.records import Song
from ..folder.workspace import DATABASE, Workspace, open_workspace
from .looking_through import look_through

_ROOM_LEFT = 64 << 20  # bytes that stay free on the disk


def unpack(workspace: Workspace, archive: Path) -> Song:
    """Put the song of an archive into a data folder, beside one of the same name.

    It is unpacked into a folder of its own first, in which everything is looked through.

    Raises
    ------
    ParameterError
        When the archive is damaged, holds what no song has, or is of a newer program; then nothing was changed.
    """
    with (
        ArchiveReader(archive) as reader,
        tempfile.TemporaryDirectory(dir=workspace.audio.new_incoming().parent) as aside,
    ):
        needed = sum(one.size for one in reader.manifest.members)
        if needed + _ROOM_LEFT > shutil.disk_usage(aside).free:
            raise broken(f"it holds {needed / 1e6:.0f} MB, and the disk has not that much room.")
        there = Path(aside)
        song_id = _unpacked(reader, there)
        ids = new_names(there / DATABASE)
        files = reader.manifest.members
        take_in(there / DATABASE, workspace.database, ids, lambda: _put(workspace, files, there, ids))
    return workspace.songs.get(ids[song_id])


def _unpacked(reader: ArchiveReader, folder: Path) -> str:
    """Unpack an archive into an empty folder, as a data folder of its own; the id of its song.

    Raises
    ------
    ParameterError
        When something of it is not as it should be.
    """
    manifest = reader.manifest
    tables = ((one.name, reader.rows(one)) for one in manifest.of_kind("table"))
    try:
        database = staged(folder / DATABASE, manifest.layout, tables)
        forget_folders(database)
        database.close()
        workspace = open_workspace(folder)
    except GlassThreadError as error:
        raise error if "Nothing was changed" in str(error) else broken(f"its {error}") from error
    try:
        for member in manifest.members:
            if member.kind == "table":
                continue
            place = _place(workspace, member)
            if member.kind == "recording" and member.name != member.sha256:
                raise ParameterError("A recording is not the one that its edits belong to.")
            reader.extract(member, place)
        return look_through(workspace, {one.name for one in manifest.of_kind("analysis")})
    except GlassThreadError as error:
        raise error if "Nothing was changed" in str(error) else broken(str(error)) from error
    finally:
        workspace.close()


def _place(workspace: Workspace, member: Member) -> Path:
    """Where a file of an archive belongs in a data folder; GlassThreadError for a name that is none there."""
    if member.kind == "recording":
        return workspace.audio.place(member.name)
    if member.kind == "analysis":
        return workspace.analyses.path(member.name)
    return workspace.audio.print_path(member.name)


def _put(workspace: Workspace, files: tuple[Member, ...], aside: Path, ids: dict[str, str]) -> None:
    """Move what was unpacked into the folder; what is there by the same content is it already.

    Raises
    ------
    ParameterError
        When this machine found something else in one of the recordings: its edits would belong to other notes.
    """
    for member in files:
        if member.kind == "table":
            continue
        there = _place(workspace, member)
        source = aside / there.parent.name / there.name
        named = Member(member.path, member.kind, renamed(member.name, ids), member.size, member.sha256)
        target = _place(workspace, named)
        if member.kind == "analysis" and target.is_file() and workspace.analyses.load(member.name) is not None:
            if target.read_bytes() != source.read_bytes():
                raise broken("what was found in one of its recordings is not what was found in it here.")
        elif member.kind != "recording" or not target.is_file():
            put_in_place(source, target)
