"""The hand-off folder of a song: what lies in it, bringing it in, and putting prints back."""

from __future__ import annotations

import os
import re
import shutil
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from ...core.signal.errors import AudioError, ConflictError, GlassThreadError, NotFoundError, ParameterError
from ...formats.atomic import write_bytes_whole, write_whole
from ...formats.audio import probe_audio
from ...formats.handoff_folder import IN, MIDI, OUT, SOUND, HandedOver, files_in, read_list, write_list
from ...formats.midi_tempo import read_midi_tempo
from ...store.files.audio_files import LARGEST_UPLOAD, hash_of
from ...store.files.disk import is_full
from ...store.records import Song, Task, Track
from ..folder.names import LONGEST_FILE_NAME, file_name, one_line
from ..folder.workspace import Workspace
from ..report.tuning_sheet import sheet_csv, tuning_sheet
from ..session.desk import Desk, Standing
from ..song.import_audio import import_audio
from ..song.songs import change_song
from .edited_spans import edited_spans
from .interchange import melody
from .print_layout import Layout

LONGEST_NAME = 80
_NAME = re.compile(r"[^./\\\x00][^/\\\x00]*")


def handoff_root(workspace: Workspace) -> Path:
    """Where hand-off folders lie: ``$GLASS_THREAD_HANDOFF``, else ``handoff`` in the data folder."""
    chosen = os.environ.get("GLASS_THREAD_HANDOFF")
    return Path(chosen).expanduser() if chosen else workspace.folder / "handoff"


def folder_names(workspace: Workspace) -> list[str]:
    """Names of the hand-off folders there are."""
    root = handoff_root(workspace)
    return sorted(path.name for path in root.iterdir() if path.is_dir()) if root.is_dir() else []


def link(desk: Desk, song_id: str, name: str | None, *, make: bool = False) -> Song:
    """Link a song with one of the folders there are, or with a new one; None unlinks it."""
    workspace = desk.workspace
    workspace.songs.get(song_id)
    if name is None:
        workspace.log.change(song_id, "Hand-off folder · none", {"song.handoff": None})
        return workspace.songs.get(song_id)
    if make:
        name = one_line(name, "A folder's name", LONGEST_NAME)
        if not _NAME.fullmatch(name):
            raise ParameterError("A folder's name has no slashes and does not begin with a full stop.")
        if len(name.encode()) > LONGEST_FILE_NAME:
            raise ParameterError("This name is too long for a folder; use fewer letters.")
        for part in (IN, OUT):
            _doing(lambda place=part: (handoff_root(workspace) / name / place).mkdir(parents=True, exist_ok=True))
    if name not in folder_names(workspace):
        raise NotFoundError(f"There is no hand-off folder “{name}”.")
    workspace.log.change(song_id, f"Hand-off folder · {name}", {"song.handoff": name})
    return workspace.songs.get(song_id)


def seen_of(song: Song) -> dict[str, Any]:
    """What was brought in from the folder that a song is linked with, by file name."""
    return dict(song.handoff_seen.get(song.handoff or "", {}))


def _doing(work: Any) -> Any:
    """Do something with the folder; what the disk refuses is said of the folder."""
    try:
        return work()
    except OSError as error:
        if is_full(error):
            raise AudioError("The disk that holds the hand-off folder is full; make room there.") from error
        reason = error.strerror or str(error)
        raise AudioError(f"The hand-off folder cannot be read or written: {reason}.") from error


def folder_of(desk: Desk, song: Song) -> Path:
    """The folder a song is linked with; a sentence when there is none or it is gone."""
    if song.handoff is None:
        raise ParameterError("This song is not linked with a hand-off folder yet.")
    folder = handoff_root(desk.workspace) / song.handoff
    if song.handoff not in folder_names(desk.workspace):
        raise NotFoundError(f"The hand-off folder “{song.handoff}” is missing. Is its disk connected?")
    for part in (folder / IN, folder / OUT):
        if not part.resolve().is_relative_to(folder.resolve()):
            raise AudioError(f"“{part.name}” in the hand-off folder is a link that leads out of it.")
    return folder


@dataclass(frozen=True)
class Incoming:
    """A sound file in `in/`: new, brought in already, or changed since; or a sentence why it cannot be used."""

    file: str
    state: str
    seconds: float = 0.0
    time_reference: int | None = None
    track_id: str | None = None
    problem: str = ""


@dataclass(frozen=True)
class HandoffState:
    """What lies in a song's folder; `problem` is a sentence when it cannot be used."""

    folder: str | None
    problem: str = ""
    incoming: tuple[Incoming, ...] = ()
    midi: tuple[str, ...] = ()
    outgoing: tuple[str, ...] = ()


def state_of(desk: Desk, song_id: str) -> HandoffState:
    """How a song's hand-off folder stands."""
    song = desk.workspace.songs.get(song_id)
    if song.handoff is None:
        return HandoffState(None)
    try:
        folder = folder_of(desk, song)
        tracks = {track.id for track in desk.workspace.tracks.of_song(song.id)}
        incoming = tuple(_incoming(song, tracks, path) for path in _doing(lambda: files_in(folder / IN, SOUND)))
        midi = tuple(path.name for path in _doing(lambda: files_in(folder / IN, MIDI)))
        outgoing = tuple(path.name for path in _doing(lambda: files_in(folder / OUT, SOUND)))
    except GlassThreadError as error:
        return HandoffState(song.handoff, str(error))
    return HandoffState(song.handoff, "", incoming, midi, outgoing)


def _incoming(song: Song, tracks: Collection[str], path: Path) -> Incoming:
    shown = path.name.encode(errors="replace").decode()
    if shown != path.name:
        return Incoming(shown, "unusable", problem="Its name is not text; give the file another name.")
    try:
        info = probe_audio(path)
    except GlassThreadError as error:
        return Incoming(path.name, "unusable", problem=str(error))
    known = seen_of(song).get(path.name)
    if path.stat().st_size > LARGEST_UPLOAD:
        return Incoming(path.name, "unusable", problem=f"It is larger than {LARGEST_UPLOAD / 1024**3:.0f} GB.")
    found = Incoming(path.name, "new", info.frames / info.sample_rate, info.time_reference)
    if known is None or known["track_id"] not in tracks:
        return found
    same = known["stat"] == _stat(path) or known["hash"] == hash_of(path)
    return replace(found, state="known" if same else "changed", track_id=known["track_id"])


def _stat(path: Path) -> list[int]:
    found = path.stat()
    return [found.st_size, found.st_mtime_ns]


def bring_in(desk: Desk, song_id: str, names: Sequence[str]) -> list[Task]:
    """Bring files of `in/` into the song, each at its place; a changed one as a new take of its track.

    A new take gets the edits of the old one where notes are alike, once it is analysed.
    """
    song = desk.workspace.songs.get(song_id)
    folder = folder_of(desk, song)
    there = {one.file: one for one in state_of(desk, song_id).incoming}
    tasks = []
    for name in names:
        one = there.get(name)
        if one is None:
            raise NotFoundError(f"There is no file “{name}” in the hand-off folder.")
        if one.problem:
            raise AudioError(f"{name}: {one.problem}")
        path = folder / IN / name
        shown = f"{path.stem} (new take).wav" if one.state == "changed" else name
        with _doing(lambda opened=path: opened.open("rb")) as stream:
            track, task = import_audio(desk.workspace, song_id, stream, shown, role=_role(desk, song, one),
                                       carry_from=one.track_id)  # fmt: skip
        now = desk.workspace.songs.get(song_id)
        brought = {name: {"stat": _stat(path), "hash": track.audio_hash, "track_id": track.id}}
        seen = {**now.handoff_seen, str(now.handoff): {**seen_of(now), **brought}}
        desk.workspace.songs.change(song_id, {"handoff_seen": seen})
        tasks.append(task)
    return tasks


def _role(desk: Desk, song: Song, one: Incoming) -> str | None:
    """The role of the take before; None for what the name says."""
    tracks = desk.workspace.tracks.of_song(song.id)
    return next((track.role for track in tracks if track.id == one.track_id), None)


def take_tempo(desk: Desk, song_id: str, name: str) -> Song:
    """Give the song tempo, meter, bar 1, key and markers of a MIDI file in `in/`."""
    folder = folder_of(desk, desk.workspace.songs.get(song_id))
    if name not in {path.name for path in files_in(folder / IN, MIDI)}:
        raise NotFoundError(f"There is no MIDI file “{name}” in the hand-off folder.")
    with _doing(lambda: (folder / IN / name).open("rb")) as stream:
        found = read_midi_tempo(stream)
    values: dict[str, Any] = {
        "tempo": found.tempo, "beats_per_bar": found.beats_per_bar, "beat_unit": found.beat_unit,
        "bar_one_s": found.bar_one_s, "tempo_changes": [vars(change) for change in found.changes],
        "markers": [vars(marker) for marker in found.markers],
    }  # fmt: skip
    if found.tonic is not None and found.scale is not None:
        changes = [vars(change) for change in found.key_changes]
        values |= {"tonic": found.tonic, "scale": found.scale, "key_changes": changes}
    return change_song(desk.workspace, song_id, values)


def refuse_overwriting(desk: Desk, song: Song, names: Sequence[str], *, replacing: bool) -> None:
    """Refuse prints that would replace each other, and files in `out/` unless that was asked for."""
    out, files = folder_of(desk, song) / OUT, [file_name(name) for name in names]
    twice = [name for name in files if files.count(name) > 1]
    if twice:
        raise ConflictError(
            f"Two of these prints would be called “{twice[0]}”. Put {{number}} into their name, or rename a track."
        )
    there = [path.name for name in files for path in (out / name, *_beside(out / name)) if path.exists()]
    if there and not replacing:
        raise ConflictError(f"“{there[0]}” is in the hand-off folder already. Say that it may be replaced.")


def _beside(target: Path) -> tuple[Path, Path]:
    """What lies beside a print in `out/`: its melody and its tuning sheet."""
    return target.with_suffix(".mid"), target.with_name(f"{target.stem} sheet.csv")


def hand_over(
    desk: Desk, standing: Standing, made: Path, name: str, made_from: str, layout: Layout | None = None
) -> None:
    """Put a finished print into `out/`, with the melody and the tuning sheet beside it, and say so in the list."""
    folder = folder_of(desk, standing.song)
    target = folder / OUT / file_name(name)

    def put() -> None:
        target.parent.mkdir(exist_ok=True)
        write_whole(target, lambda path: _copied(made, path))
        sung, sheet = _beside(target)
        write_bytes_whole(sung, melody(desk, standing))
        write_bytes_whole(sheet, sheet_csv(tuning_sheet(desk, standing, made_from)).encode())
        source = _source_of(standing.song, standing.track)
        entry = HandedOver(target.name, source, edited_spans(desk, standing, layout), made_from)
        write_list(folder, [*(one for one in read_list(folder) if one.file != entry.file), entry])

    _doing(put)


def _copied(source: Path, target: Path) -> None:
    shutil.copyfile(source, target)


def _source_of(song: Song, track: Track) -> str | None:
    return next((name for name, seen in seen_of(song).items() if seen["track_id"] == track.id), None)
