"""A mix: all that sounds of a song in one file, with levels and the backing; the one print that is not at unity."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ...core.signal.errors import ParameterError
from ...core.signal.units import db_to_gain
from ...formats.plain_data import keys_to_data
from ...store.records import Task, Track
from ..history.versions import as_heard
from ..session.desk import Desk
from .mix import pan_gains
from .print_writer import print_form
from .printing import form_values, made_of, saved_name


def request_mix(desk: Desk, song_id: str, wanted: dict[str, Any]) -> Task:
    """Queue a mix of all tracks that are ready and not muted, each vocal as it is heard in the stack."""
    song = desk.workspace.songs.get(song_id)
    tracks = [one for one in desk.workspace.tracks.of_song(song_id) if one.ready and not one.muted]
    vocals = [one for one in tracks if one.role != "backing"]
    if not vocals:
        raise ParameterError("There is no vocal in this song that could be mixed.")
    if len({one.sample_rate for one in tracks}) > 1:
        raise ParameterError("The tracks of this song have different sample rates, so they cannot be mixed.")
    print_form(desk.sound.info(vocals[0].audio_hash), **form_values(wanted))
    number = 1 + len(desk.workspace.prints.of_song(song_id))
    name = saved_name(wanted.get("pattern") or "{song} mix", song, vocals[0], "mix", number)
    steps = {one.id: as_heard(desk, one.id).step_id for one in vocals}
    task = desk.workspace.tasks.add(
        kind="print", song_id=song_id, track_id=vocals[0].id,
        wanted={**wanted, "mix": steps, "version": "mix", "file": song.title, "frozen": _frozen(desk, tracks, steps),
                "shown_name": f"{name}.{wanted.get('container', 'wav')}"},
    )  # fmt: skip
    desk.workspace.announce()
    return task


def _frozen(desk: Desk, tracks: Sequence[Track], steps: Mapping[str, str | None]) -> dict[str, Any]:
    """What a mix of tracks, each at a step, is made of: parts with where they begin and factors, and the form."""
    begin_s = min([0.0, *(one.offset_s for one in tracks)])
    parts = [_part(desk, one, steps.get(one.id), begin_s) for one in tracks]
    panned = 2 if any(one.pan for one in tracks) else 1
    return {"parts": parts, "length": max(part["end"] for part in parts),
            "channels": max([panned, *(one.channels for one in tracks)])}  # fmt: skip


def _part(desk: Desk, track: Track, step_id: str | None, begin_s: float) -> dict[str, Any]:
    begin = round((track.offset_s - begin_s) * track.sample_rate)
    part = {"track_id": track.id, "audio": track.audio_hash, "begin": begin, "gains": _gains(track)}
    if step_id is None:
        return {**part, "end": begin + track.frames}
    standing = desk.at(track.id, step_id)
    return {**part, "step_id": step_id, "keys": keys_to_data(standing.keys), "end": begin + desk.take(standing).length}


def mix_data(desk: Desk, task: Task) -> tuple[list[dict[str, Any]], int, int]:
    """The parts of a queued mix as plain data, its length in samples, and how many channels it has; as all that was
    when it was asked for."""
    frozen = task.wanted.get("frozen")
    if frozen is None:  # an earlier release kept none
        there = [one for one in desk.workspace.tracks.of_song(str(task.song_id)) if one.ready and not one.muted]
        frozen = _frozen(desk, there, task.wanted["mix"])
    return [_part_data(desk, part) for part in frozen["parts"]], frozen["length"], frozen["channels"]


def _gains(track: Track) -> list[float]:
    level = float(db_to_gain(track.level_db))
    return [level * side for side in pan_gains(track.pan, track.channels)] if track.pan else [level]


def _part_data(desk: Desk, part: dict[str, Any]) -> dict[str, Any]:
    data = {name: part[name] for name in ("audio", "begin", "gains")}
    if "step_id" not in part:
        return data
    standing = desk.at(part["track_id"], part["step_id"], even_removed=True)
    return {**data, **made_of(desk, standing), "keys": part["keys"]}
