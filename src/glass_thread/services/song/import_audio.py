"""Bring in a recording: check it, keep it, and have it analysed in the background."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path, PurePath
from typing import Any, BinaryIO

from ...core.analysis.analysis import analyse_recording
from ...core.signal.errors import CutOffError, ParameterError
from ...core.signal.types import Analysis
from ...core.signal.validation import in_range
from ...formats.audio import AudioInfo, AudioReader, probe_audio
from ...formats.salvage import salvage
from ...formats.wave.bext import read_time_reference
from ...store.files.audio_files import hash_of
from ...store.records import Song, Task, Track
from ..folder.workspace import Workspace
from .track_roles import ROLES, role_of

EARLIEST_S, LATEST_S = -3600.0, 7200.0


def _name_from(file_name: str) -> str:
    stem = PurePath(file_name.replace("\\", "/")).stem
    shown = "".join(ch for ch in stem if ch.isprintable()).strip()
    return shown[:120] or "Recording"


def import_audio(
    workspace: Workspace, song_id: str, stream: BinaryIO, file_name: str, *, role: str | None = None,
    offset_s: float | None = None, as_far: bool = False, carry_from: str | None = None,
) -> tuple[Track, Task]:  # fmt: skip
    """Take an upload into a song; a bad file changes nothing.

    A file that is cut off is a CutOffError, unless it is to be taken `as_far` as it goes.

    With `carry_from` it is a new take of that track, whose edits it gets where notes are alike.
    The track appears at once and is ready when its task is done.  A file's own time stamp places it on the timeline
    unless `offset_s` says otherwise, and its name says its `role` unless that is given.
    """
    if role is not None and role not in ROLES:
        raise ParameterError(f"A track is one of: {', '.join(ROLES)}.")
    song = workspace.songs.get(song_id)
    name = _name_from(file_name)
    role = role or role_of(name, {track.role for track in workspace.tracks.of_song(song_id)})
    incoming = workspace.audio.receive(stream)
    try:
        info, incoming = _usable(workspace, incoming, as_far)
        start_s: float | None = None
        if offset_s is None:
            offset_s, start_s = _by_stamp(song, info)
        in_range(offset_s, EARLIEST_S, LATEST_S, "The place on the timeline (s)")
        audio_hash = hash_of(incoming)
        track, task = workspace.tracks.add(
            lambda: workspace.audio.keep(incoming, audio_hash), carry_from=carry_from, song_start_s=start_s,
            song_id=song_id, name=name, role=role, audio_hash=audio_hash,
            sample_rate=info.sample_rate, channels=info.channels, frames=info.frames, container=info.container,
            subtype=info.subtype, time_reference=info.time_reference, offset_s=offset_s,
            position=len(workspace.tracks.of_song(song_id)), level_db=0.0, muted=False, ready=False, notes_found=0,
        )  # fmt: skip
    finally:
        incoming.unlink(missing_ok=True)
    workspace.announce()
    return track, task


def _usable(workspace: Workspace, incoming: Path, as_far: bool) -> tuple[AudioInfo, Path]:
    """What a received file says of itself, and where the file to be kept lies: itself, or what could be read of it."""
    try:
        return probe_audio(incoming), incoming
    except CutOffError:
        if not as_far:
            raise
    whole = workspace.audio.new_incoming()
    try:
        salvage(incoming, whole)
        stamp = read_time_reference(incoming)
        incoming.unlink()
        return replace(probe_audio(whole), time_reference=stamp), whole
    except BaseException:
        whole.unlink(missing_ok=True)
        raise


def _by_stamp(song: Song, info: AudioInfo) -> tuple[float, float | None]:
    """Where a recording begins in a song by its own time stamp, and the song's start when this is the first to know it.

    The first one sets the song's start to the hour that it lies in, as sessions mostly begin on one (common practice,
    no source); all others are placed by it. One that lies hours off is put at the beginning, see `placed_apart`.
    """
    if info.time_reference is None:
        return 0.0, None
    stamp_s = info.time_reference / info.sample_rate
    start_s = song.start_s if song.start_s is not None else 3600.0 * (stamp_s // 3600.0)
    offset_s = stamp_s - start_s
    return offset_s if EARLIEST_S <= offset_s <= LATEST_S else 0.0, start_s if song.start_s is None else None


def placed_apart(song: Song, track: Track) -> str:
    """What is to be said of a track whose time stamp lies too far from the song's others to be its place."""
    if track.time_reference is None or song.start_s is None:
        return ""
    apart_s = track.time_reference / track.sample_rate - song.start_s
    if EARLIEST_S <= apart_s <= LATEST_S:
        return ""
    hours, side = abs(apart_s) / 3600.0, "after" if apart_s > 0 else "before"
    return (f"The time stamp of “{track.name}” lies {hours:.1f} h {side} the start of the song, so it was put at the "
            "beginning.")  # fmt: skip


def analyse_path(path: Path, **settings: Any) -> Analysis:
    """Analyse a file outside the data folder, for the command line."""
    with tempfile.TemporaryDirectory() as folder:
        return analyse_recording(AudioReader(path, Path(folder) / "unpacked"), **settings)
