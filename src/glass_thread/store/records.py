"""Frozen records that the repositories hand out."""

from __future__ import annotations

import uuid
from dataclasses import dataclass, field
from typing import Any


def new_id() -> str:
    """A fresh identifier of 32 hexadecimal digits."""
    return uuid.uuid4().hex


@dataclass(frozen=True)
class Song:
    """One piece of music; pitch classes 0 (C) to 11, tempo in beats a minute, times in seconds; `temperament` has the
    name of a tuning, or with "scala" the texts of its files; `key_changes` a bar, a beat and a key each;
    `tempo_changes` are the fields of `core.song.beats.TempoChange` in order, `markers` those of `Marker`; `handoff`
    names its hand-off folder, and `handoff_seen` says what was brought in from each: folder to file name to its size
    and time, hash and track; `start_s` is the time of day, in seconds, at which the song's own time begins, None until
    a recording with a time stamp was brought in; `language` is that of its words, "" to guess it, and `chords` those
    that were typed, each from a bar and beat to another with its label."""

    id: str
    title: str
    tonic: int
    scale: str
    classes: list[int]
    reference_hz: float
    reference_key: int
    temperament: dict[str, Any]
    key_changes: list[dict[str, Any]]
    tempo: float
    beats_per_bar: int
    beat_unit: int
    bar_one_s: float
    key_chosen: bool
    tempo_chosen: bool
    tempo_changes: list[dict[str, Any]]
    done: list[str]
    markers: list[dict[str, Any]]
    handoff: str | None
    handoff_seen: dict[str, Any]
    created_at: float
    removed_at: float | None = None
    start_s: float | None = None
    language: str = ""
    chords: list[dict[str, Any]] = field(default_factory=list)


@dataclass(frozen=True)
class SongStep:
    """One step of a song, as it stands in its list: done, undone, or left behind when others were done after it was
    undone; `made_by` names the sign-in code that it was made with, "" on the machine itself."""

    id: str
    song_id: str
    number: int
    turn: int
    state: str
    label: str
    created_at: float
    made_by: str = ""


@dataclass(frozen=True)
class Track:
    """One recorded line; `analysis_id` names what its edits belong to, `version_id` the version worked on, `words` what
    is sung in each phrase, by its number from 0, `progress` how far it was when that
    was last asked; `derived_from` the track it is made of, whose recording it shares; `pan` −1 left to 1 right;
    `heard_version` the version or comp that is heard in the stack, None for the one worked on; `singer`
    is who sings it, empty when nobody said; `laid` is what was said of its words by hand, see
    `services.lyrics.by_hand`."""

    id: str
    song_id: str
    name: str
    role: str
    audio_hash: str
    sample_rate: int
    channels: int
    frames: int
    container: str
    subtype: str
    time_reference: int | None
    offset_s: float
    level_db: float
    muted: bool
    ready: bool
    notes_found: int
    analysis_id: str | None
    version_id: str | None
    position: int
    words: dict[str, str]
    progress: dict[str, Any] | None
    derived_from: str | None = None
    pan: float = 0.0
    heard_version: str | None = None
    singer: str = ""
    removed_at: float | None = None
    laid: dict[str, Any] = field(default_factory=dict)

    @property
    def duration_s(self) -> float:
        """Length in seconds."""
        return self.frames / self.sample_rate


@dataclass(frozen=True)
class Step:
    """One immutable change in a track's history.

    The root, "as found", has number 0 and no parent; a step's number is that of its parent plus one.  Steps with the
    same `line` follow each other without a branch between them; those with the same `shared` were made at once on
    several tracks.
    """

    id: str
    track_id: str
    parent_id: str | None
    line: int
    number: int
    label: str
    operation: dict[str, Any]
    change: dict[str, Any]
    created_at: float
    shared: str | None = None
    made_by: str = ""


@dataclass(frozen=True)
class StepEntry:
    """A step as it stands in a list: without what it changed, but with the time in the track where it did, and with the
    name of the sign-in code that it was made with, "" on the machine itself."""

    id: str
    parent_id: str | None
    line: int
    number: int
    label: str
    created_at: float
    at_s: float | None
    shared: str | None = None
    made_by: str = ""


@dataclass(frozen=True)
class Version:
    """A named head in a track's history; `tip` is the last step that redo leads to.

    `kind` is as_sung (the root, read only), tuned (where work begins), made (by the user) or comp (which chooses among
    the others).
    """

    id: str
    track_id: str
    name: str
    note: str
    kind: str
    head_id: str
    tip_id: str
    position: int
    created_at: float
    removed_at: float | None

    @property
    def read_only(self) -> bool:
        """True for As sung."""
        return self.kind == "as_sung"

    @property
    def is_comp(self) -> bool:
        """True for a comp."""
        return self.kind == "comp"


@dataclass(frozen=True)
class Print:
    """A finished print: its file in the data folder and the name it is saved under; what it was made of, as that stood
    when it was asked for; its figures, the fields of `PrintSummary`; the name it was handed over under, None when it
    was not, and why not when it should have been."""

    id: str
    song_id: str
    track_id: str
    number: int
    file: str
    shown_name: str
    made_of: dict[str, Any]
    figures: dict[str, Any]
    handed_over: str | None
    trouble: str
    created_at: float


@dataclass(frozen=True)
class Task:
    """Long work: waiting, running, done, failed or cancelled."""

    id: str
    kind: str
    song_id: str | None
    track_id: str | None
    state: str
    stage: str
    share: float
    message: str
    wanted: dict[str, Any] = field(default_factory=dict)
    result: dict[str, Any] = field(default_factory=dict)
    cancel: bool = False
    created_at: float = 0.0
