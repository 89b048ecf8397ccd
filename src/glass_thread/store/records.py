"""Frozen records that the repositories hand out."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Song:
    """One piece of music; pitch classes 0 (C) to 11, tempo in beats a minute, times in seconds."""

    id: str
    title: str
    tonic: int
    scale: str
    classes: list[int]
    reference_hz: float
    tempo: float
    beats_per_bar: int
    beat_unit: int
    bar_one_s: float
    key_chosen: bool
    words: dict[str, str]
    done: list[str]
    created_at: float


@dataclass(frozen=True)
class Track:
    """One recorded line; `revision` counts every change of its edits, `cursor` the steps in force."""

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
    revision: int
    cursor: int
    position: int

    @property
    def duration_s(self) -> float:
        """Length in seconds."""
        return self.frames / self.sample_rate


@dataclass(frozen=True)
class Step:
    """One undoable step of a track's history; numbers start at 1."""

    number: int
    label: str
    operation: dict[str, Any]
    change: dict[str, Any]
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
