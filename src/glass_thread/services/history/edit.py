"""Edit, undo, redo, jump; a step is worked out before it is stored, and stored before it is acknowledged."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ...core.analysis.pitch.f0 import track_f0
from ...core.document.content import Content, ContentChange, apply_to_content
from ...core.document.gestures import AS_SUNG, ASPECTS
from ...core.document.items.links import LeadNow
from ...core.document.linked.origins import Origin
from ...core.document.notes import EditedNote, selected
from ...core.document.operations.on_borrows import BorrowWord
from ...core.document.operations.on_follow import CatchUp, Follow
from ...core.document.operations.on_time import Quantise
from ...core.document.operations.registry import Operation, Scene, describe, parse_operation
from ...core.document.rows import Row
from ...core.document.time.give_way import squeezed
from ...core.document.words import Loan
from ...core.signal.errors import ParameterError
from ...core.signal.recording import Mono, Recording
from ...core.signal.types import HOP_S, Analysis, Floats, Reading
from ...core.signal.units import pitch_label
from ...core.song.keys import KeyMap
from ...formats.plain_data import change_to_data
from ...store.history import Move, NewStep, refuse_change
from ...store.records import Step, Version
from ...store.song_log import DONE, UNDONE
from ..folder.workspace import Workspace
from ..session.desk import Desk, Moved, Standing
from ..voices.borrowing import loan_for
from ..voices.following import lead_for
from ..voices.origins import origins_for
from .lines import lines_for
from .link_words import link_words
from .on_top import standing_to_edit
from .rows import rows_of
from .shared_steps import Along, made_again, taken_back

READING_MARGIN_S = 0.1


@dataclass(frozen=True)
class Done:
    """What an edit, undo, redo or jump did to a version; `step` is the step that was added, if one was, and `others`
    are the tracks that went along, as the step was made on several at once."""

    version: Version
    moved: Moved
    step: Step | None = None
    others: tuple[str, ...] = ()


def open_version(desk: Desk, track_id: str, version_id: str | None) -> Version:
    """A version of a track; without an id the one that is worked on."""
    track = desk.track(track_id)
    return version_of(desk.workspace, track_id, version_id or str(track.version_id))


def version_of(workspace: Workspace, track_id: str, version_id: str) -> Version:
    """A version by its id, of that track."""
    version = workspace.history.version(version_id)
    if version.track_id != track_id:
        raise ParameterError("This version belongs to another track.")
    return version


def _at_base(desk: Desk, track_id: str, version_id: str | None, base: str) -> tuple[Version, Standing]:
    """A version whose head must be `base`, and the track as it stands there."""
    version = open_version(desk, track_id, version_id)
    refuse_change(version, base)  # before anything is worked out; looked at again where the step is stored
    return version, desk.at(track_id, base)


def edit(desk: Desk, track_id: str, operation: object, *, base: str, version_id: str | None = None) -> Done:
    """Apply one operation, given as plain data, to a version that was seen at the step `base`.

    What was done since is kept: the edit is laid on top, or is a StaleEditError when both are about the same.  An edit
    that changes nothing leaves no step.  One that changes links is a step of the song too.
    """
    asked = parse_operation(operation)
    version, before = open_version(desk, track_id, version_id), desk.at(track_id, base)
    on = standing_to_edit(desk, version, before, asked, lambda standing: applied(desk, standing, asked)[0])
    change, after = applied(desk, on, asked)
    if not change:
        return Done(version, desk.moved(before, on))
    moved = desk.moved(before, after)
    refuse_squeeze(moved)
    new = NewStep(version.id, version.head_id, describe(asked, change), asked.to_data(), change_to_data(change))
    words = link_words(desk, before.track, asked, change)
    logged = (before.song.id, words) if words else None
    ((version, step),) = desk.workspace.history.append([new], logged=logged)
    return Done(version, desk.remember(moved, desk.keep(after, step)), step)


def refuse_squeeze(moved: Moved) -> None:
    """Refuse a move after which time would have to be pressed together, or stretched, beyond what gives way."""
    trouble = squeezed(moved.plans[0].giving, moved.plans[1].giving)
    if trouble:
        raise ParameterError(trouble)


def applied(desk: Desk, before: Standing, asked: Operation) -> tuple[ContentChange, Standing]:
    """The change an operation makes, and the standing after it; nothing is stored."""
    of_comp = bool(before.content.choices)
    if not isinstance(asked, CatchUp) and of_comp != (asked.needs == "rows"):
        raise ParameterError(
            "A comp chooses among versions: edit one of them, or make a version of the comp and edit that."
            if of_comp else "Only a comp chooses among versions; make one first."
        )  # fmt: skip
    lines = lines_for(desk, before, asked) if isinstance(asked, Quantise) else None
    loan = loan_for(desk, before, asked) if isinstance(asked, BorrowWord) else None
    lead = lead_for(desk, before, asked) if isinstance(asked, Follow) else None
    origins = origins_for(desk, before, asked) if isinstance(asked, CatchUp) else None
    rows = rows_of(desk, before.track.id) if of_comp else None
    change, content = changed_content(
        before.content, before.keys, before.analysis, asked,
        lambda: desk.sound.heard(desk.sound.source(before.track.audio_hash), desk.plan(before)),
        lines=lines, rows=rows, loan=loan, lead=lead, origins=origins,
    )  # fmt: skip
    return change, desk.with_content(before, content)


def changed_content(
    content: Content, keys: KeyMap, analysis: Analysis, asked: Operation, source: Callable[[], Recording], *,
    lines: Floats | None = None, rows: Mapping[str, Row] | None = None, loan: Loan | None = None,
    lead: LeadNow | None = None, origins: Mapping[str, Origin] | None = None,
) -> tuple[ContentChange, Content]:  # fmt: skip
    """The change an operation makes of a content, and the content after it; `source` is read when it must be."""
    readings = _find_readings(source(), content, asked) if asked.needs == "readings" else {}
    moments = np.zeros(0) if lines is None else lines
    change = asked.change(Scene(content, keys, analysis, readings, moments, rows or {}, loan, lead, origins or {}))
    return change, apply_to_content(content, change)


def _find_readings(source: Recording, content: Content, asked: Any) -> Mapping[str, Reading]:
    """The pitch that is found in the recording where notes lie, within the range of a “read again”."""
    mono, rate = Mono(source), source.sample_rate
    readings = {}
    for edited in selected(content.notes, asked.note_ids):
        first = max(0, round((edited.note.start_s - READING_MARGIN_S) / HOP_S))
        last = round((edited.note.end_s + READING_MARGIN_S) / HOP_S)
        piece = mono[round(first * HOP_S * rate) : round(last * HOP_S * rate)]
        found = track_f0(piece, rate, low_hz=asked.low_hz, high_hz=asked.high_hz)
        midi = tuple(None if np.isnan(value) else float(value) for value in found.midi)
        readings[edited.note.id] = Reading(first, midi)
    return readings


def edit_text(edited: EditedNote) -> str:
    """A note with something asked of it, in words: where it is and what would be lost."""
    asked = [name.replace("_", " ") for name, fields in ASPECTS.items() if name != "all" and any(
        getattr(edited.gesture, field) != getattr(AS_SUNG, field) for field in fields)]  # fmt: skip
    return f"{pitch_label(edited.note.centre_midi)} at {edited.note.start_s:.2f} s: {', '.join(asked)}"


def undo(desk: Desk, track_id: str, *, base: str, version_id: str | None = None) -> Done:
    """Move a version's head to its parent; a step that was made on several tracks is taken back on all of them."""
    version, before = _at_base(desk, track_id, version_id, base)
    here = desk.workspace.history.place(base)
    if here.parent_id is None:
        raise ParameterError("There is nothing to undo.")
    return _go(desk, version, before, here.parent_id, taken_back(desk, here), shared=here.shared, state=UNDONE)


def redo(desk: Desk, track_id: str, *, base: str, version_id: str | None = None) -> Done:
    """Move a version's head one step towards the tip it came from, on all tracks that the step was made on."""
    version, before = _at_base(desk, track_id, version_id, base)
    following = desk.workspace.history.next_towards(desk.workspace.history.place(base), version.tip_id)
    if following is None:
        raise ParameterError("There is nothing to redo.")
    return _go(desk, version, before, following.id, made_again(desk, following), shared=following.shared, state=DONE)


def jump(desk: Desk, track_id: str, *, base: str, to: str, version_id: str | None = None) -> Done:
    """Move a version's head to any step of the track, and of this track alone."""
    version, before = _at_base(desk, track_id, version_id, base)
    return _go(desk, version, before, to)


def _go(
    desk: Desk, version: Version, before: Standing, to: str, along: Sequence[Along] = (), *,
    shared: str | None = None, state: str = "",
) -> Done:  # fmt: skip
    after = desk.at(before.track.id, to)
    if bool(after.content.choices) != version.is_comp:
        raise ParameterError("There is nothing to undo." if version.is_comp else "This step belongs to a comp.")
    moved = desk.moved(before, after)
    assert before.step_id is not None
    moves = [Move(version.id, before.step_id, to), *(one.move for one in along)]
    now = desk.workspace.history.move_heads(moves, shared=shared, state=state)[0]
    return Done(now, moved, others=tuple(one.track_id for one in along))
