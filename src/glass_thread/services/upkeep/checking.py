"""A data folder looked through: what is in it against what it should be, and what can be mended."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ...core.document.content import apply_to_content, as_found
from ...core.signal.errors import GlassThreadError
from ...formats.audio import AudioReader
from ...formats.plain_data import change_from_data
from ...store.files.audio_files import hash_of
from ...store.records import Print, Song, Task, Track, Version
from ..folder.workspace import Workspace
from ..prints.printing import print_file
from ..session.agreement import disagreements
from ..session.desk import Desk
from ..work.folder_depot import FolderDepot
from ..work.making import print_job

STEPS_WALKED = 30
MENDS, MENDED = "“--mend” makes it anew from the steps.", "It was made anew from the steps."
_BLOCK = 1 << 18


@dataclass(frozen=True)
class Finding:
    """Something that is not as it should be: about what, what it is, and how it can be mended; empty when it cannot."""

    about: str
    trouble: str
    mend: str = ""


def check_folder(workspace: Workspace, *, prints: bool = True, mend: bool = False) -> Iterator[Finding]:
    """Everything in a data folder that is not as it should be; nothing is changed, unless it is to be mended.

    Recordings are compared with their hashes, analyses read, the heads of versions compared with their steps replayed
    from the beginning, plans and verdicts that were derived step by step with those worked out anew, and `prints`, when
    asked for, with what they were made of.
    """
    desk = Desk(workspace)
    seen = set[str]()
    for song in workspace.songs.all():
        for track in workspace.tracks.of_song(song.id):
            about = f"“{track.name}” of “{song.title}”"
            if track.audio_hash not in seen:
                seen.add(track.audio_hash)
                yield from _recording(workspace, track, about)
            if track.ready and track.analysis_id:
                yield from _track(desk, track, about, mend=mend)
        for made in workspace.prints.of_song(song.id) if prints else []:
            yield from _print(desk, song, made)


def _recording(workspace: Workspace, track: Track, about: str) -> Iterator[Finding]:
    again = "Put a copy of the recording in its place, or bring it in anew; edits stay."
    try:
        path = workspace.audio.source(track.audio_hash)
        if hash_of(path) != track.audio_hash:
            yield Finding(about, "The recording's file is not what was brought in.", again)
    except (GlassThreadError, OSError) as error:
        yield Finding(about, f"The recording cannot be read: {error}", again)


def _track(desk: Desk, track: Track, about: str, *, mend: bool) -> Iterator[Finding]:
    if desk.workspace.analyses.load(str(track.analysis_id)) is None:
        yield Finding(
            about, "What was found in the recording is missing or damaged.", "Open the track: it is made again."
        )
        return
    for version in desk.workspace.history.versions(track.id):
        try:
            yield from _version(desk, track, version, f"{about}, version “{version.name}”", mend=mend)
        except (GlassThreadError, OSError, KeyError, ValueError, TypeError) as error:
            yield Finding(f"{about}, version “{version.name}”", f"It cannot be read: {error}")


def _version(desk: Desk, track: Track, version: Version, about: str, *, mend: bool) -> Iterator[Finding]:
    """A head against its steps from the first on, and what is derived along the last of them against a fresh start."""
    history, analysis = desk.workspace.history, desk.analysis(track)
    path = history.path(version.head_id, most=1_000_000)[::-1]
    content = as_found(analysis)
    for entry in path:
        if entry.parent_id is not None:
            content = apply_to_content(content, change_from_data(history.step(entry.id).change))
    if Desk(desk.workspace).at(track.id, version.head_id).content != content:
        if mend:
            history.forget_snapshots(track.id)
        yield Finding(about, "What is kept of it is not what its steps lead to.", MENDED if mend else MENDS)
        return
    if version.is_comp:
        return
    last, live = path[-STEPS_WALKED:], Desk(desk.workspace)
    before = live.at(track.id, last[0].id)
    for entry in last[1:]:
        after = live.at(track.id, entry.id)
        live.moved(before, after)
        before = after
    for what in disagreements(live, desk, before, sound=True):
        yield Finding(about, f"Derived step by step it is not what is worked out anew ({what}).")


def _print(desk: Desk, song: Song, made: Print) -> Iterator[Finding]:
    about = f"Print “{made.shown_name}” of “{song.title}”"
    path = print_file(desk, made)
    if not path.is_file():
        yield Finding(about, "Its file is gone.", "Print it again.")
        return
    task = Task(made.id, "print", made.song_id, made.track_id, "done", "", 1.0, "", made.made_of)
    try:
        with tempfile.TemporaryDirectory() as folder:
            depot = _Beside(desk.workspace.folder, Path(folder))
            print_job(desk, task).do(depot, lambda _stage, _share: None)
            if not _same_sound(path, depot.made):
                yield Finding(about, "It does not sound like what it was made of.", "Print it again.")
    except (GlassThreadError, OSError, KeyError) as error:
        yield Finding(about, f"It cannot be compared with what it was made of: {error}")


class _Beside(FolderDepot):
    """A data folder to read from, with what is made put elsewhere."""

    def __init__(self, folder: Path, beside: Path) -> None:
        super().__init__(folder)
        self.made = beside / "made"

    def deliver(self, path: Path) -> str:
        """Keep what was made where it is looked at."""
        path.rename(self.made)
        return self.made.name


def _same_sound(one: Path, other: Path) -> bool:
    readers = AudioReader(one, one), AudioReader(other, other)
    try:
        if readers[0].frames != readers[1].frames or readers[0].channels != readers[1].channels:
            return False
        for at in range(0, readers[0].frames, _BLOCK):
            first, second = (reader.read(at, min(at + _BLOCK, reader.frames)) for reader in readers)
            if not np.array_equal(first, second):
                return False
        return True
    finally:
        for reader in readers:
            reader.close()
