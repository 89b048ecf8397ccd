"""Print tracks: fixed files, listed with what they were made from."""

from __future__ import annotations

import datetime
import re
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import Any

from ...core.signal.errors import ParameterError
from ...core.signal.validation import in_range
from ...formats.audio import AudioInfo
from ...formats.plain_data import content_to_data, keys_from_data, keys_to_data
from ...store.records import Print, Song, Task, Track, Version
from ..session.desk import Desk, Standing
from .changed import Changed, changed_counts, comp_counts
from .cues import cues_of
from .handoff import refuse_overwriting
from .print_layout import Layout, chosen_spans
from .print_writer import PrintSummary, print_form, summarise

PATTERN = "{track} {version}"
FIELDS = ("song", "track", "version", "date", "number")
LONGEST_PATTERN = 120
FADE_MS = 15.0  # common practice, no source


def print_summary(desk: Desk, standing: Standing) -> tuple[PrintSummary, AudioInfo]:
    """What a print of all of a standing would hold, and the source it is made from."""
    info = _info(desk, standing)
    return summarise(desk.take(standing).blocks(), info, _counts(desk, standing)), info


def _counts(desk: Desk, standing: Standing) -> Changed:
    choices = standing.content.choices
    if not choices:
        return changed_counts(standing.content, desk.plan(standing))
    parts = desk.chosen(standing)
    contents = {step: part.content for step, part in parts.items()}
    return comp_counts(choices, contents, {step: desk.plan(part) for step, part in parts.items()})


def _info(desk: Desk, standing: Standing) -> AudioInfo:
    return desk.sound.info(standing.track.audio_hash)


def stamp_of(song: Song, track: Track) -> int:
    """The source's own time stamp in samples, else the track's place on the timeline, by the song's time of day."""
    if track.time_reference is not None:
        return track.time_reference
    return round((track.offset_s + (song.start_s or 0.0)) * track.sample_rate)


def request_print(desk: Desk, track_id: str, wanted: dict[str, Any], *, step_id: str | None = None) -> Task:
    """Queue a print of a track at a step; whatever is edited meanwhile, that step is printed."""
    return request_prints(desk, [(track_id, step_id)], wanted)[0]


def request_prints(desk: Desk, steps: Sequence[tuple[str, str | None]], wanted: dict[str, Any]) -> list[Task]:
    """Queue prints of tracks of one song, each at a step or as it stands; none when one of them cannot be made.

    With `one_length` in what is wanted all begin at bar 1 and end together.
    """
    standings = [desk.at(track_id, step_id) for track_id, step_id in steps]
    if not standings:
        raise ParameterError("There is no track here that could be printed.")
    shared = _one_length(desk, standings) if wanted.get("one_length") else None
    made = []
    for standing in standings:
        layout = layout_of(desk, standing, wanted, shared)
        print_form(_info(desk, standing), **form_values(wanted))
        stamp = max(0, stamp_of(standing.song, standing.track) + layout.first)
        cues = cues_of(desk, standing, layout.first, layout.length)
        frozen = {"keys": keys_to_data(standing.keys), "stamp": stamp, "cues": cues}
        made.append((standing, {**wanted, "step_id": standing.step_id, **_made_from(desk, standing, wanted),
                                "layout": asdict(layout), "frozen": frozen}))  # fmt: skip
    if wanted.get("handoff"):
        names = [values["shown_name"] for _standing, values in made]
        refuse_overwriting(desk, standings[0].song, names, replacing=bool(wanted.get("replace")))
    tasks = [
        desk.workspace.tasks.add(kind="print", song_id=one.track.song_id, track_id=one.track.id, wanted=values)
        for one, values in made
    ]
    desk.workspace.announce()
    return tasks


def _one_length(desk: Desk, standings: Sequence[Standing]) -> tuple[float, float]:
    """From bar 1, or from where the first of them begins when that is earlier, to the last end; song seconds."""
    ends = [one.track.offset_s + desk.take(one).length / one.track.sample_rate for one in standings]
    begin = min([standings[0].song.bar_one_s, *(one.track.offset_s for one in standings)])
    return begin, max(ends)


def layout_of(
    desk: Desk, standing: Standing, wanted: dict[str, Any], shared: tuple[float, float] | None = None
) -> Layout:
    """The part of a track that is printed: all of it, chosen stretches, or a range of the song that tracks share."""
    rate, offset_s = standing.track.sample_rate, standing.track.offset_s
    length = desk.take(standing).length
    spans = chosen_spans([(one["start_s"], one["end_s"]) for one in wanted.get("spans") or ()], rate, length)
    if wanted.get("spans") and not spans:
        raise ParameterError("The chosen stretches lie outside of the recording.")
    fade = round(in_range(wanted.get("fade_ms", FADE_MS), 0.0, 5000.0, "The fade (ms)") / 1000.0 * rate)
    if shared is not None:
        first, last = (round((at - offset_s) * rate) for at in shared)
        return Layout(first, last, spans, fade)
    return Layout(spans[0][0], spans[-1][1], spans, fade) if spans else Layout(0, length)


def as_asked(desk: Desk, task: Task) -> Standing:
    """What a queued print is of: its step, under the keys that were the song's when it was asked for."""
    standing = desk.at(str(task.track_id), task.wanted.get("step_id"), even_removed=True)
    frozen = task.wanted.get("frozen")  # an earlier release kept none
    return replace(standing, keys=keys_from_data(frozen["keys"])) if frozen else standing


def made_of(desk: Desk, standing: Standing) -> dict[str, Any]:
    """What a job needs to make the sound of a standing, as plain data: see `work.jobs.take_of`."""
    parts = {step: content_to_data(part.content) for step, part in desk.chosen(standing).items()}
    return {"audio": standing.track.audio_hash, "analysis": standing.analysis_id,
            "content": content_to_data(standing.content), "keys": keys_to_data(standing.keys),
            "parts": parts}  # fmt: skip


def form_values(wanted: dict[str, Any]) -> dict[str, Any]:
    """What a request for a print says of the form of the file."""
    return {name: wanted[name] for name in ("container", "bits", "lower_db", "sample_rate") if name in wanted}


def _made_from(desk: Desk, standing: Standing, wanted: dict[str, Any]) -> dict[str, Any]:
    """What a print is made from, in words, and the name it is saved under."""
    assert standing.step_id is not None
    version, step = _version_at(desk, standing), desk.workspace.history.place(standing.step_id)
    name = "tuned" if version is None else version.name.lower()
    number = 1 + sum(one.track_id == standing.track.id for one in desk.workspace.prints.of_song(standing.song.id))
    shown = saved_name(wanted.get("pattern") or PATTERN, standing.song, standing.track, name, number)
    return {"shown_name": f"{shown}.{wanted.get('container', 'wav')}", "version": name, "step": step.number,
            "label": step.label, "file": standing.track.name}  # fmt: skip


def saved_name(pattern: str, song: Song, track: Track, version: str, number: int) -> str:
    """The name of a print by a pattern of fields in braces; ParameterError names one that there is not."""
    unknown = [name for name in re.findall(r"{(.*?)}", pattern) if name not in FIELDS]
    if unknown or len(pattern) > LONGEST_PATTERN or not pattern.isprintable():
        raise ParameterError(
            f"A name for prints is one line of text with fields: {', '.join(f'{{{name}}}' for name in FIELDS)}."
        )
    today = datetime.datetime.now(tz=datetime.UTC).astimezone().date().isoformat()
    values = {"song": song.title, "track": track.name, "version": version, "date": today, "number": f"{number:02d}"}
    name = re.sub(r"{(.*?)}", lambda found: values[found[1]], pattern).strip()
    return name or values["track"]


def _version_at(desk: Desk, standing: Standing) -> Version | None:
    """The version or comp that stands at a step; none when none does, or As sung alone."""
    there = desk.workspace.history.versions(standing.track.id)
    return next((one for one in there if one.head_id == standing.step_id and not one.read_only), None)


@dataclass(frozen=True)
class PrintEntry:
    """A finished print in the list; `there` is False when its file is gone."""

    made: Print
    there: bool

    @property
    def values(self) -> dict[str, Any]:
        """What it was made of, and its figures."""
        return {**self.made.made_of, **self.made.figures, "shown_name": self.made.shown_name}


def list_prints(desk: Desk, song_id: str) -> list[PrintEntry]:
    """The finished prints of a song, newest first."""
    desk.workspace.songs.get(song_id)
    return [
        PrintEntry(one, print_file(desk, one).is_file()) for one in reversed(desk.workspace.prints.of_song(song_id))
    ]


def print_file(desk: Desk, one: Print) -> Path:
    """Where the file of a print lies."""
    return desk.workspace.audio.print_path(one.file)


def remove_print(desk: Desk, print_id: str) -> None:
    """Take a print away, with its file."""
    one = desk.workspace.prints.get(print_id)
    print_file(desk, one).unlink(missing_ok=True)
    desk.workspace.prints.remove(print_id)
