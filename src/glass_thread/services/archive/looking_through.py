"""An unpacked song looked through: whether everything in it is what the program itself would have written."""

from __future__ import annotations

import copy
from collections.abc import Callable
from typing import Any

from ...core.document.content import Content
from ...core.signal.errors import GlassThreadError, ParameterError
from ...core.signal.validation import in_range
from ...formats.audio import probe_audio
from ...store.records import Song, Track, Version
from ...store.song_log import OF_SONGS, OF_TRACKS
from ..folder.workspace import Workspace
from ..session.desk import Desk
from ..session.keys import pitches_data
from ..session.meters import keys_of
from ..song.import_audio import EARLIEST_S, LATEST_S
from ..song.songs import checked_song_values, checked_track_values, markers_of
from ..song.track_roles import ROLES

_UNFIT = (GlassThreadError, KeyError, IndexError, ValueError, TypeError, AttributeError, OverflowError, ArithmeticError)
LARGEST_VALUE = 1e5  # beyond what any value of a note is asked for
_MOMENTS = ("removed_at", "start_s")
# What checking derives from other values, which need not be those it was derived from.
_DERIVED = ("classes", "key_chosen", "tempo_chosen")
_KINDS = ("as_sung", "tuned", "made", "comp")


def look_through(workspace: Workspace, analyses: set[str]) -> str:
    """Look a folder through that holds one song; its id.

    Raises
    ------
    ParameterError
        When something is not as this program would have written it.
    """
    songs = workspace.songs.all()
    if len(songs) != 1:
        raise ParameterError("It holds no song, or several.")
    song, desk = songs[0], Desk(workspace)
    for analysis in analyses:
        if workspace.analyses.load(analysis) is None:
            raise ParameterError("What was found in a recording cannot be read.")
    for made in workspace.prints.of_song(song.id):
        workspace.audio.print_path(made.file)
    _refuse_unfit("The song's values cannot be", lambda: _look_at_song(song))
    _refuse_unfit("The song's steps cannot be", lambda: _look_at_song_steps(workspace, song))
    for track in _tracks(workspace, song):
        _refuse_unfit(f"The values of “{track.name[:60]}” cannot be", lambda: _look_at_track(desk, track))  # noqa: B023
    return song.id


def _tracks(workspace: Workspace, song: Song) -> list[Track]:
    """All tracks of a song, those too that were removed from it."""
    return workspace.tracks.of_song(song.id) + workspace.tracks.removed()


def _refuse_unfit(what: str, look: Callable[[], None]) -> None:
    try:
        look()
    except _UNFIT as error:
        raise ParameterError(f"{what}: {str(error)[:120]}") from error


def _look_at_song(song: Song) -> None:
    values = {name: getattr(song, name) for name in OF_SONGS}
    _refuse_other(values, checked_song_values(song, copy.deepcopy(values)))
    if not all(isinstance(one, str) for one in song.done):
        raise ParameterError("“done” names no phrases.")
    pitches_data(keys_of(song))
    markers_of(song)


def _look_at_song_steps(workspace: Workspace, song: Song) -> None:
    """What undo and redo in the song would put in its place."""
    tracks = {track.id: track for track in _tracks(workspace, song)}
    for change in workspace.log.changes(song.id):
        for name, (before, after) in change.items():
            of, _, rest = name.partition(".")
            if of == "head":
                continue
            known = song if of == "song" else tracks[rest.partition(".")[0]]
            field = rest if of == "song" else rest.partition(".")[2]
            if field not in (OF_SONGS if of == "song" else OF_TRACKS):
                raise ParameterError(f"there is no value {field[:40]!r}.")
            for value in (before, after):
                _look_at_value(song, known, field, value)


def _look_at_value(song: Song, known: Song | Track, field: str, value: Any) -> None:
    if field in _MOMENTS:
        fine = value is None or isinstance(value, (int, float))
    else:
        now = getattr(known, field)
        fine = isinstance(value, (int, float) if isinstance(now, float) else type(now))
    if not fine:
        raise ParameterError(f"“{field}” has another kind of value.")
    if known is song:
        _refuse_other({field: value}, checked_song_values(song, {field: copy.deepcopy(value)}))
    else:
        _look_at_track_values({field: value})


def _refuse_other(values: dict[str, Any], checked: dict[str, Any]) -> None:
    """ParameterError when a value is not what this program itself would have stored for it."""
    classes = values.get("classes", ())
    if not all(isinstance(one, int) and 0 <= one < 12 for one in classes):
        raise ParameterError("“classes” are none of a scale.")
    for name, value in values.items():
        if name not in _DERIVED and checked[name] != value:
            raise ParameterError(f"“{name}” is not as it would be stored.")


def _look_at_track_values(values: dict[str, Any]) -> None:
    _refuse_other(values, checked_track_values(values))
    if values.get("role", ROLES[0]) not in ROLES:
        raise ParameterError("there is no such role.")
    for name, (low, high) in {
        "offset_s": (EARLIEST_S, LATEST_S),
        "level_db": (-120.0, 24.0),
        "pan": (-1.0, 1.0),
    }.items():
        in_range(values.get(name, 0.0), low, high, name)


def _look_at_track(desk: Desk, track: Track) -> None:
    named = ("name", "role", "offset_s", "words", "laid", "singer", "level_db", "pan")
    _look_at_track_values({name: getattr(track, name) for name in named})
    info = probe_audio(desk.workspace.audio.source(track.audio_hash))
    found = info.sample_rate, info.channels, info.frames, info.container, info.subtype
    if found != (track.sample_rate, track.channels, track.frames, track.container, track.subtype):
        raise ParameterError("they are not those of its recording.")
    if track.removed_at is None and not (track.ready and (track.analysis_id is None) == (track.version_id is None)):
        raise ParameterError("it was never looked at.")
    if track.version_id is not None:
        history = desk.workspace.history
        for version in history.versions(track.id) + history.versions(track.id, removed=True):
            _look_at_version(desk, track, version)


def _look_at_version(desk: Desk, track: Track, version: Version) -> None:
    """Every step that leads to a version's head, and those that redo leads to."""
    if version.kind not in _KINDS:
        raise ParameterError("it has no such version.")
    for step_id in {version.head_id, version.tip_id}:
        _look_at_content(desk.at(track.id, step_id, even_removed=True).content, desk)


def _look_at_content(content: Content, desk: Desk) -> None:
    for choice in content.choices.values():
        desk.workspace.history.place(choice.step_id)
    for edited in content.notes.values():
        gesture = edited.gesture
        for value in vars(gesture).values():
            if isinstance(value, float) and abs(value) > LARGEST_VALUE:
                raise ParameterError(f"{edited.note.id[:20]} asks for more than can be.")
