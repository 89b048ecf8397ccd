"""Edit operations on gestures that follow from the sung contour, or from other notes."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ....signal.errors import ParameterError
from ....signal.types import HOP_S, Analysis
from ....signal.units import HIGHEST_MIDI, LOWEST_MIDI
from ....song.keys import KeyMap
from ...content import Content
from ...flags import ABRUPT_CENTS, STEEPEST
from ...gestures import RANGES, USUAL_GLIDE_MS, Stroke, as_read, parts_of, shift_of, with_values
from ...notes import EditedNote, NoteChange, Notes, current_target, difference, selected, with_gesture
from .note_edits import strokes_within
from .time_edits import with_neighbours

SOFTEST_MS, LONGEST_SHARE = 45.0, 0.4
JOINED_S = 2 * HOP_S  # at most between notes that are sung through
MS_PER_SEMITONE = 14.0
MS_PER_TURNED_CENT = 1.1 * 1000.0 * HOP_S * STEEPEST / ABRUPT_CENTS  # a tenth longer than what counts as abrupt


def nudge(notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], values: Mapping[str, float]) -> NoteChange:
    """NoteChange values by an amount; each note keeps its own start and stays within the range."""
    chosen = selected(notes, note_ids)
    after = []
    for edited in chosen:
        changed: dict[str, Any] = {}
        for name, amount in values.items():
            low, high, _what = RANGES[name]
            now = getattr(edited.gesture, name)
            changed[name] = float(np.clip((USUAL_GLIDE_MS if now is None else now) + amount, low, high))
        after.append(with_gesture(notes, edited, keys, with_values(edited.gesture, **changed)))
    refuse_lone_glides(notes, chosen, values)
    return difference(chosen, after)


def straighten(notes: Notes, keys: KeyMap, analysis: Analysis, *, note_ids: Sequence[str], side: str) -> NoteChange:
    """Take the drift out and keep the level that the note has at its `side` (in or out)."""
    del keys
    chosen = selected(notes, note_ids)
    after = []
    for edited in chosen:
        parts = parts_of(as_read(analysis.contour, [edited.note]), edited.note)
        n = len(parts.drift)
        part = slice(n // 8, max(n // 8 + 1, n // 3)) if side == "in" else slice(-max(n // 3, 1), -max(n // 8, 1))
        level = parts.centre + float(np.mean(parts.drift[part]))
        asked = {"drift": 0.0, "pull": 1.0, "within_cents": 0.0, "target_midi": level, "rounding": "free"}
        gesture = with_values(edited.gesture, **asked)
        after.append(replace(edited, gesture=gesture))
    return difference(chosen, after)


def soften_joins(notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], amount: float = 1.0) -> NoteChange:
    """Give the glide into each selected note a length from the interval and from how long both notes are.

    45 ms and 14 ms a semitone, and as long as the correction needs to turn without a jump, times `amount`; at most 40 %
    of the shorter note (common practice, no source).
    """
    chosen = selected(notes, note_ids)
    before = joined_before(notes)
    refuse_lone_glides(notes, chosen, {"glide_ms": amount})
    after = []
    for edited in chosen:
        left = before.get(edited.note.id)
        if left is None:
            after.append(edited)
            continue
        interval = abs(current_target(notes, edited, keys) - current_target(notes, left, keys))
        shorter = min(edited.note.end_s - edited.note.start_s, left.note.end_s - left.note.start_s)
        turned = 100.0 * abs(_shift(notes, edited, keys) - _shift(notes, left, keys))
        length = max(SOFTEST_MS + MS_PER_SEMITONE * interval, MS_PER_TURNED_CENT * turned)
        least, longest, _words = RANGES["glide_ms"]
        length = max(min(amount * length, 1000.0 * LONGEST_SHARE * shorter, longest), least)
        after.append(replace(edited, gesture=with_values(edited.gesture, glide_ms=float(round(length)))))
    change = difference(chosen, after)
    if not change:
        raise ParameterError("The joins of these notes are this soft already; choose another amount.")
    return change


def joined_before(notes: Notes) -> dict[str, EditedNote]:
    """By id of a note the one that is sung right into it."""
    ordered = sorted(notes.values(), key=lambda e: e.note.start_s)
    return {b.note.id: a for a, b in itertools.pairwise(ordered) if b.note.start_s - a.note.end_s <= JOINED_S}


def refuse_lone_glides(notes: Notes, chosen: Sequence[EditedNote], values: Mapping[str, Any]) -> None:
    """Raise ParameterError when only glides are asked for, and of notes that none is sung into."""
    if not values or not set(values) <= {"glide_ms", "glide_bend"}:
        return
    joined = joined_before(notes)
    if not any(edited.note.id in joined for edited in chosen):
        raise ParameterError(
            "There is no join here: a glide leads from a note into the next one that is sung on without a break. "
            "Select the second note of a join."
        )


def _shift(notes: Notes, edited: EditedNote, keys: KeyMap) -> float:
    return shift_of(edited.note.centre_midi, edited.gesture, current_target(notes, edited, keys))


def draw(notes: Notes, keys: KeyMap, *, points: Sequence[Sequence[float]], keep_fine: bool = True) -> NoteChange:
    """Put a pitch drawn by hand, (time in s, MIDI) points, over every note it crosses."""
    del keys
    table = _checked_points(points)
    chosen, after = [], []
    for edited in notes.values():
        start, end = max(edited.note.start_s, table[0, 0]), min(edited.note.end_s, table[-1, 0])
        if end - start < 2 * HOP_S:
            continue
        inner = table[(table[:, 0] > start) & (table[:, 0] < end)]
        ends = np.array([[t, np.interp(t, table[:, 0], table[:, 1])] for t in (start, end)])
        whole = np.concatenate((ends[:1], inner, ends[1:]))
        stroke = Stroke(tuple((float(t), float(p)) for t, p in whole), bool(keep_fine))
        chosen.append(edited)
        after.append(_with_strokes(edited, [*_outside(edited, start, end), stroke]))
    if not chosen:
        raise ParameterError("There is no note under this line; draw over a note.")
    return difference(chosen, after)


def rub_out(notes: Notes, keys: KeyMap, *, start_s: float, end_s: float) -> NoteChange:
    """Take what was done to the pitch away between two times.

    A hand curve goes, so that what was computed comes back; where there is none, the voice as it was sung does, while
    the rest of the note stays as it is asked to be.
    """
    del keys
    chosen = [e for e in notes.values() if e.note.start_s < end_s and e.note.end_s > start_s]
    change = difference(chosen, [_rubbed(e, start_s, end_s) for e in chosen])
    if not change:
        raise ParameterError("There is nothing to rub out here: the pitch is as sung.")
    return change


def _rubbed(edited: EditedNote, start_s: float, end_s: float) -> EditedNote:
    low, high = max(start_s, edited.note.start_s), min(end_s, edited.note.end_s)
    outside = _outside(edited, low, high)
    if any(one.points[0][0] < high and one.points[-1][0] > low for one in edited.gesture.hand):
        return _with_strokes(edited, outside)
    if high - low < 2 * HOP_S or not replace(edited.gesture, hand=()).bends_pitch:
        return edited
    centre = edited.note.centre_midi
    return _with_strokes(edited, [*outside, Stroke(((low, centre), (high, centre)), as_sung=True)])


def _checked_points(points: Sequence[Sequence[float]]) -> np.ndarray:
    table = np.array(points, dtype=np.float64)
    if table.ndim != 2 or table.shape[1] != 2 or not 2 <= len(table) <= 20_000 or not np.isfinite(table).all():
        raise ParameterError("A hand curve needs at least two points of time and pitch.")
    table = table[np.argsort(table[:, 0], kind="stable")]
    table = table[np.append(True, np.diff(table[:, 0]) > 1e-6)]
    if len(table) < 2 or table[:, 1].min() < LOWEST_MIDI or table[:, 1].max() > HIGHEST_MIDI:
        raise ParameterError("A hand curve must move in time and stay within the range of pitches.")
    return table


def _outside(edited: EditedNote, start_s: float, end_s: float) -> list[Stroke]:
    """The note's strokes without what lies between two times."""
    strokes = edited.gesture.hand
    return [*strokes_within(strokes, -math.inf, start_s), *strokes_within(strokes, end_s, math.inf)]


def _with_strokes(edited: EditedNote, strokes: list[Stroke]) -> EditedNote:
    ordered = tuple(sorted(strokes, key=lambda stroke: stroke.points[0][0]))
    return replace(edited, gesture=replace(edited.gesture, hand=ordered))


def copy_gestures(
    content: Content, keys: KeyMap, analysis: Analysis, *, from_ids: Sequence[str], to_ids: Sequence[str],
    targets: bool = True, timing: bool = False,
) -> NoteChange:  # fmt: skip
    """Give notes the gestures of others, in order of time and over again; with or without their targets and timing.

    Hand curves move with the note's start.
    """
    notes = content.notes
    sources = sorted(selected(notes, from_ids), key=lambda e: e.note.start_s)
    chosen = sorted(selected(notes, to_ids), key=lambda e: e.note.start_s)
    if len(chosen) % len(sources):
        raise ParameterError(
            f"{len(sources)} notes were copied and {len(chosen)} are selected; select as many, or copy one."
        )
    after = []
    for i, edited in enumerate(chosen):
        source = sources[i % len(sources)]
        gesture = source.gesture
        moved = edited.note.start_s - source.note.start_s
        strokes = tuple(replace(s, points=tuple((t + moved, p) for t, p in s.points)) for s in gesture.hand)
        along = targets and gesture.pull > 0.0
        target = current_target(notes, source, keys) if along else edited.gesture.target_midi
        shift = source.gesture if timing else edited.gesture
        copied = replace(
            gesture, target_midi=target, hand=strokes, start_shift_ms=shift.start_shift_ms,
            end_shift_ms=shift.end_shift_ms,
        )  # fmt: skip
        after.append(with_gesture(notes, edited, keys, copied))
    return with_neighbours(content, analysis, after) if timing else difference(chosen, after)


def alike_phrases(notes: Notes, phrase: int) -> list[int]:
    """Phrases with as many notes of like pitch (within 1 semitone, as targets go) and like rhythm (within a fifth)."""
    phrases: dict[int, list[EditedNote]] = {}
    for edited in notes.values():
        phrases.setdefault(edited.note.phrase, []).append(edited)
    own = phrases.get(phrase)
    if not own:
        return []

    def shape(sung: list[EditedNote]) -> tuple[np.ndarray, np.ndarray]:
        starts = np.array([e.note.start_s for e in sung])
        return np.array([e.note.centre_midi for e in sung]), starts - starts[0]

    pitch, rhythm = shape(own)
    found = []
    for index, others in phrases.items():
        if index == phrase or len(others) != len(own):
            continue
        other_pitch, other_rhythm = shape(others)
        near = np.abs(other_pitch - pitch).max() < 1.0
        if near and np.abs(other_rhythm - rhythm).max() < 0.06 + 0.1 * rhythm[-1]:
            found.append(index)
    return found
