"""Tables.  Rows never leave this folder; `records` holds what does."""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, Integer, String, UniqueConstraint, text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    """Common base of all tables."""


class SongRow(Base):
    __tablename__ = "song"
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    title: Mapped[str]
    tonic: Mapped[int] = mapped_column(default=0)
    scale: Mapped[str] = mapped_column(default="chromatic")
    classes: Mapped[list[int]] = mapped_column(JSON, default=list)
    reference_hz: Mapped[float] = mapped_column(default=440.0)
    reference_key: Mapped[int] = mapped_column(default=69)
    temperament: Mapped[dict[str, Any]] = mapped_column(JSON, default=lambda: {"name": "equal"})
    key_changes: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    tempo: Mapped[float] = mapped_column(default=120.0)
    beats_per_bar: Mapped[int] = mapped_column(default=4)
    beat_unit: Mapped[int] = mapped_column(default=4)
    bar_one_s: Mapped[float] = mapped_column(default=0.0)
    key_chosen: Mapped[bool] = mapped_column(default=False)
    tempo_chosen: Mapped[bool] = mapped_column(default=False)
    tempo_changes: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    done: Mapped[list[str]] = mapped_column(JSON, default=list)
    markers: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    language: Mapped[str] = mapped_column(default="")
    chords: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    start_s: Mapped[float | None] = mapped_column(nullable=True)
    handoff: Mapped[str | None] = mapped_column(nullable=True)
    handoff_seen: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    created_at: Mapped[float]
    removed_at: Mapped[float | None] = mapped_column(nullable=True)


class SongStepRow(Base):
    __tablename__ = "song_step"
    __table_args__ = (
        UniqueConstraint("song_id", "number", name="one_song_step_a_place"),
        Index("song_steps_by_turn", "song_id", "turn"),  # the last is asked for whenever anything was written
    )
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    song_id: Mapped[str] = mapped_column(ForeignKey("song.id", ondelete="CASCADE"))
    number: Mapped[int]
    turn: Mapped[int]
    state: Mapped[str]
    label: Mapped[str]
    change: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True)
    created_at: Mapped[float]
    made_by: Mapped[str] = mapped_column(default="")


class TrackRow(Base):
    __tablename__ = "track"
    __table_args__ = (
        Index(
            "one_copy_per_song",
            "song_id",
            "audio_hash",
            unique=True,
            sqlite_where=text("derived_from IS NULL AND removed_at IS NULL"),
        ),
    )
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    song_id: Mapped[str] = mapped_column(ForeignKey("song.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    role: Mapped[str]
    audio_hash: Mapped[str] = mapped_column(String(64))
    sample_rate: Mapped[int]
    channels: Mapped[int]
    frames: Mapped[int]
    container: Mapped[str]
    subtype: Mapped[str]
    time_reference: Mapped[int | None] = mapped_column(Integer, nullable=True)
    offset_s: Mapped[float] = mapped_column(default=0.0)
    level_db: Mapped[float] = mapped_column(default=0.0)
    muted: Mapped[bool] = mapped_column(default=False)
    ready: Mapped[bool] = mapped_column(default=False)
    notes_found: Mapped[int] = mapped_column(default=0)
    analysis_id: Mapped[str | None] = mapped_column(String(80), nullable=True)
    version_id: Mapped[str | None] = mapped_column(String(32), nullable=True)
    position: Mapped[int] = mapped_column(default=0)
    words: Mapped[dict[str, str]] = mapped_column(JSON, default=dict)
    laid: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    derived_from: Mapped[str | None] = mapped_column(String(32), nullable=True)
    pan: Mapped[float] = mapped_column(default=0.0)
    singer: Mapped[str] = mapped_column(default="")
    heard_version: Mapped[str | None] = mapped_column(String(32), nullable=True)
    progress: Mapped[dict[str, Any] | None] = mapped_column(JSON(none_as_null=True), nullable=True)
    removed_at: Mapped[float | None] = mapped_column(nullable=True)


class StepRow(Base):
    __tablename__ = "step"
    __table_args__ = (
        UniqueConstraint("track_id", "line", "number", name="one_step_a_place"),
        Index("steps_made_at_once", "shared", sqlite_where=text("shared IS NOT NULL")),
    )
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    track_id: Mapped[str] = mapped_column(ForeignKey("track.id", ondelete="CASCADE"))
    parent_id: Mapped[str | None] = mapped_column(String(32), nullable=True)
    line: Mapped[int]
    number: Mapped[int]
    label: Mapped[str]
    shared: Mapped[str | None] = mapped_column(String(32), nullable=True)
    # A pass over a long track changes thousands of notes: what a step did is read only when it is wanted.
    operation: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True, deferred_group="what")
    change: Mapped[dict[str, Any]] = mapped_column(JSON, deferred=True, deferred_group="what")
    created_at: Mapped[float]
    made_by: Mapped[str] = mapped_column(default="")


class VersionRow(Base):
    __tablename__ = "version"
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    track_id: Mapped[str] = mapped_column(ForeignKey("track.id", ondelete="CASCADE"), index=True)
    name: Mapped[str]
    note: Mapped[str] = mapped_column(default="")
    kind: Mapped[str] = mapped_column(default="made")
    head_id: Mapped[str] = mapped_column(String(32))
    tip_id: Mapped[str] = mapped_column(String(32))
    position: Mapped[int]
    created_at: Mapped[float]
    removed_at: Mapped[float | None] = mapped_column(nullable=True)


class SnapshotRow(Base):
    __tablename__ = "snapshot"
    step_id: Mapped[str] = mapped_column(ForeignKey("step.id", ondelete="CASCADE"), primary_key=True)
    content: Mapped[bytes]


class TaskRow(Base):
    __tablename__ = "task"
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    kind: Mapped[str]
    song_id: Mapped[str | None] = mapped_column(ForeignKey("song.id", ondelete="CASCADE"), nullable=True)
    track_id: Mapped[str | None] = mapped_column(String(32), nullable=True)
    state: Mapped[str] = mapped_column(default="waiting")
    stage: Mapped[str] = mapped_column(default="Waiting")
    share: Mapped[float] = mapped_column(default=0.0)
    message: Mapped[str] = mapped_column(default="")
    wanted: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    result: Mapped[dict[str, Any]] = mapped_column(JSON, default=dict)
    cancel: Mapped[bool] = mapped_column(default=False)
    created_at: Mapped[float]


class PrintRow(Base):
    __tablename__ = "print"
    __table_args__ = (UniqueConstraint("song_id", "number", name="one_print_a_number"),)
    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    song_id: Mapped[str] = mapped_column(ForeignKey("song.id", ondelete="CASCADE"))
    track_id: Mapped[str] = mapped_column(String(32))
    number: Mapped[int]
    file: Mapped[str]
    shown_name: Mapped[str]
    made_of: Mapped[dict[str, Any]] = mapped_column(JSON)
    figures: Mapped[dict[str, Any]] = mapped_column(JSON)
    handed_over: Mapped[str | None] = mapped_column(nullable=True)
    trouble: Mapped[str] = mapped_column(default="")
    created_at: Mapped[float]


class TunePassRow(Base):
    __tablename__ = "tune_pass"
    name: Mapped[str] = mapped_column(String(60), primary_key=True)
    settings: Mapped[dict[str, Any]] = mapped_column(JSON)
