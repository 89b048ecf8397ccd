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
from ...formats.bext import read_time_reference
from ...formats.salvage import salvage
from ...store.files.audio_files import hash_of
from ...store.records import Task, Track
from ..folder.workspace import Workspace
from .track_roles import ROLES, role_of


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
    workspace.songs.get(song_id)
    name = _name_from(file_name)
    role = role or role_of(name, {track.role for track in workspace.tracks.of_song(song_id)})
    incoming = workspace.audio.receive(stream)
    try:
        info, incoming = _usable(workspace, incoming, as_far)
        if offset_s is None:
            offset_s = 0.0 if info.time_reference is None else _stamp_offset(info.time_reference, info.sample_rate)
        in_range(offset_s, -3600, 7200, "The place on the timeline (s)")
        audio_hash = hash_of(incoming)
        track, task = workspace.tracks.add(
            lambda: workspace.audio.keep(incoming, audio_hash), carry_from=carry_from,
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


def _stamp_offset(time_reference: int, sample_rate: int) -> float:
    """Stamps of one hour or more count from that hour, where sessions usually start (common practice, no source)."""
    seconds = time_reference / sample_rate
    return seconds - 3600.0 if seconds >= 3600.0 and seconds < 10800.0 else min(seconds, 7200.0)


def analyse_path(path: Path, **settings: Any) -> Analysis:
    """Analyse a file outside the data folder, for the command line."""
    with tempfile.TemporaryDirectory() as folder:
        return analyse_recording(AudioReader(path, Path(folder) / "unpacked"), **settings)
