"""The correction of pitch: tuned minus sung, per note, with glides between notes that are sung through."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ...analysis.notes.note_parts import NoteParts
from ...document.gestures import EDITION, Gesture, note_frames, parts_of, shift_of, split_note
from ...document.notes import EditedNote, Notes, current_target
from ...document.time.stretches import Stretch
from ...signal.types import Contour, Floats
from ...song.keys import KeyMap
from .fitted import fitted_correction, fitted_join
from .hand_curve import follow_hand
from .vibrato import at_its_rate, frames_in_track, put_on
from .ways import join_notes


def note_correction(
    parts: NoteParts, gesture: Gesture, target: float, track_frames: Floats | None = None, *, regular: bool = False
) -> Floats:
    """Tuned minus sung pitch inside one note, without its hand curve, in semitones, shape (n,).

    `track_frames`, shape (n,), says where the note's frames come to lie when it is stretched: a singer who holds a note
    longer keeps the rate of her vibrato, so a `regular` one goes on or is cut, and is not slowed or hurried.
    """
    n = len(parts.body)
    change = np.full(n, shift_of(parts.centre, gesture, target))
    if gesture.drift_share == gesture.vibrato_share:
        change += (gesture.drift_share - 1.0) * parts.body
    else:
        change += (gesture.drift_share - 1.0) * parts.drift + (gesture.vibrato_share - 1.0) * parts.vibrato
    change += (gesture.scoop - 1.0) * parts.scoop + (gesture.fall - 1.0) * parts.fall
    if track_frames is not None and regular and gesture.vibrato_share:
        change += gesture.vibrato_share * (at_its_rate(parts.vibrato, track_frames) - parts.vibrato)
    return change + put_on(n, gesture, track_frames)


def fill_correction(
    total: Floats,
    heard: Contour,
    read: Contour,
    level_db: Floats,
    ordered: Sequence[EditedNote],
    notes: Notes,
    keys: KeyMap,
    stretches: Sequence[Stretch] = (),
) -> None:
    """Write the correction in semitones of some notes into `total`, shape (n_frames,), which is 0 around them.

    Between two notes sung through, the correction glides with a smooth (C1) curve; towards silence it is held.

    Parameters
    ----------
    heard, read : Contour
        The sung pitch as it is heard (none in voiceless air), and as its notes are read.
    level_db : ndarray, shape (n_frames,)
        Level of the sound, for telling where the notes are heard.
    ordered : sequence of EditedNote
        In order of time; all those of every sung-through stretch that one of them lies in.
    notes, keys
        All notes of the track, and what those round to whose target was never fixed.
    stretches : sequence of Stretch
        What is longer or shorter than sung, near the notes.
    """
    n = len(total)
    held = [_held_otherwise(edited, stretches, n) for edited in ordered]
    bent = [edited.gesture.bends_pitch or frames is not None for edited, frames in zip(ordered, held, strict=True)]
    for i, edited in enumerate(ordered):
        if bent[i]:
            a, b = note_frames(edited.note, n)
            total[a:b] = _own_correction(edited, read, level_db, notes, keys, held[i])
    for i in range(1, len(ordered)):
        if bent[i - 1] or bent[i] or ordered[i].gesture.glides:
            _join(total, heard.midi, ordered[i - 1], ordered[i])
    _hold_to_silence(total, heard.midi, ordered, bent)
    strokes = [(stroke, note_frames(edited.note, n)) for edited in ordered for stroke in edited.gesture.hand]
    follow_hand(total, heard.midi, strokes)


def _own_correction(
    edited: EditedNote, read: Contour, level_db: Floats, notes: Notes, keys: KeyMap, track_frames: Floats | None
) -> Floats:
    """The correction inside one note, shape (n,), by the edition of what is asked of it."""
    gesture, note = edited.gesture, edited.note
    target = current_target(notes, edited, keys) if gesture.pull else 0.0
    if gesture.edition < EDITION:
        return fitted_correction(split_note(read, level_db, note), gesture, target, track_frames)
    return note_correction(parts_of(read, note), gesture, target, track_frames, regular=note.vibrato is not None)


def _join(total: Floats, midi: Floats, left: EditedNote, right: EditedNote) -> None:
    """The way between two notes, in place, where they are sung through; nothing elsewhere."""
    n = len(total)
    (a, end), (start, b) = note_frames(left.note, n), note_frames(right.note, n)
    if start - end > 2 or end - a < 2 or b - start < 2 or not np.isfinite(midi[end - 1 : start + 1]).all():
        return
    if min(left.gesture.edition, right.gesture.edition) < EDITION:
        fitted_join(total, left.note, right.note, right.gesture)
    else:
        join_notes(total, midi, (a, end), (start, b), right.gesture)


def _held_otherwise(edited: EditedNote, stretches: Sequence[Stretch], n: int) -> Floats | None:
    """Where the frames of a note with a vibrato come to lie when it is stretched; None when it is not, or has none."""
    if edited.note.vibrato is None and not edited.gesture.added_extent:
        return None
    return frames_in_track(*note_frames(edited.note, n), stretches)


def _hold_to_silence(total: Floats, midi: Floats, ordered: Sequence[EditedNote], bent: Sequence[bool]) -> None:
    """Carry a note's correction over voiced frames before or after it that belong to no note, in place."""
    n = len(total)
    spans = [note_frames(edited.note, n) for edited in ordered]
    for i, (a, b) in enumerate(spans):
        if not bent[i] or a >= b:
            continue
        reached = spans[i - 1][1] if i else 0
        first = a
        while first > reached and not math.isnan(midi[first - 1]):
            first -= 1
        total[first:a] = total[a]
        limit = spans[i + 1][0] if i + 1 < len(spans) else n
        last = b
        while last < limit and not math.isnan(midi[last]):
            last += 1
        total[b:last] = total[b - 1]
