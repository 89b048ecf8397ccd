"""Edit operations on the notes themselves: where they begin and end, and how their pitch is read."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ....analysis.analysis import describe_note
from ....analysis.creak import creak_of, with_creak
from ....analysis.notes.segmentation import note_ranges
from ....signal.errors import NotFoundError, ParameterError
from ....signal.types import HOP_S, Analysis, Note, Reading
from ....signal.validation import in_range
from ....song.keys import KeyMap
from ...flags import step_between
from ...gestures import EDITION, Gesture, Stroke, as_read, note_frames, split_note
from ...notes import EditedNote, NoteChange, Notes, difference, selected

SHORTEST_S = 0.04
SEARCH_S = 0.03  # of a proposed place around the one that is pointed at
CRUMB_S = 0.08  # shorter, nothing is left over by a proposed cut
_SIDE_S = 0.08
ALIKE_S, ALIKE_SEMITONES = 0.03, 0.5


@dataclass(frozen=True)
class SplitProposal:
    """Where a note would be cut, in seconds, and the centres in MIDI of what would be left and right of it."""

    note_id: str
    at_s: float
    left_midi: float
    right_midi: float


def _described(analysis: Analysis, note: Note, start: int, end: int, note_id: str) -> Note:
    """A note over frames [start, end) with the reading and phrase of `note`."""
    contour = as_read(analysis.contour, [replace(note, start_s=start * HOP_S, end_s=end * HOP_S)])
    made = describe_note(note_id, contour.midi, analysis.level_db, start, end, note.phrase)
    return replace(made, octave=note.octave, reading=note.reading, spoken=note.spoken)


def _note(notes: Notes, note_id: str) -> EditedNote:
    return selected(notes, [note_id])[0]


def _fresh_id(notes: Notes) -> str:
    numbers = [int(note_id[1:]) for note_id in notes if note_id[1:].isdigit()]
    return f"n{max(numbers, default=0) + 1:04d}"


def propose_split(notes: Notes, analysis: Analysis, note_id: str, at_s: float, *, exact: bool = False) -> SplitProposal:
    """The best place near `at_s` to cut a note: a step of pitch or a dip of level; `exact` takes the very place."""
    note = _note(notes, note_id).note
    least = SHORTEST_S if exact else max(SHORTEST_S, min(CRUMB_S, 0.45 * (note.end_s - note.start_s)))
    low, high = note.start_s + least, note.end_s - least
    if high <= low:
        raise ParameterError("This note is too short to be split.")
    at = float(np.clip(in_range(at_s, -1e6, 1e6, "The place (s)"), low, high))
    contour = as_read(analysis.contour, [note])
    if not exact:
        at = _best_cut(contour.midi, analysis.level_db, at, low, high)
    frame = round(at / HOP_S)
    a, b = note_frames(note, len(contour.midi))
    left, right = (_described(analysis, note, *span, note_id).centre_midi for span in ((a, frame), (frame, b)))
    return SplitProposal(note_id, frame * HOP_S, left, right)


def _best_cut(midi: np.ndarray, level: np.ndarray, at: float, low: float, high: float) -> float:
    first, last = round(max(low, at - SEARCH_S) / HOP_S), round(min(high, at + SEARCH_S) / HOP_S)
    side = int(_SIDE_S / HOP_S)
    best, found = -1.0, at
    for frame in range(first, last + 1):
        before, after = midi[max(0, frame - side) : frame], midi[frame : frame + side]
        before, after = before[np.isfinite(before)], after[np.isfinite(after)]
        if len(before) < 3 or len(after) < 3:
            continue
        step = abs(float(after.mean() - before.mean()))
        around = level[max(0, frame - side) : frame + side]
        dip = max(0.0, float(around.max() - level[frame])) / 12.0
        score = step + dip - 0.5 * abs(frame * HOP_S - at)
        if score > best:
            best, found = score, frame * HOP_S
    return found


def split(
    notes: Notes, keys: KeyMap, analysis: Analysis, *, note_id: str, at_s: float, exact: bool = False
) -> NoteChange:
    """Cut a note in two; both keep what was asked of it, and each takes its own nearest allowed target."""
    edited = _note(notes, note_id)
    place = propose_split(notes, analysis, note_id, at_s, exact=exact)
    return _cut(edited, keys, analysis, round(place.at_s / HOP_S), _fresh_id(notes))


def _cut(edited: EditedNote, keys: KeyMap, analysis: Analysis, frame: int, other: str) -> NoteChange:
    """The change that cuts a note at a frame; the second part is named `other`."""
    a, b = note_frames(edited.note, len(analysis.contour.midi))
    gesture, at_s = edited.gesture, frame * HOP_S
    along = (frame - a) / (b - a)
    cut_ms = (1.0 - along) * gesture.start_shift_ms + along * gesture.end_shift_ms
    first = replace(gesture, end_shift_ms=cut_ms, lean_out=0.0, hand=strokes_within(gesture.hand, 0.0, at_s))
    second = replace(
        gesture, start_shift_ms=cut_ms, lean_in=0.0, hand=strokes_within(gesture.hand, at_s, edited.note.end_s),
        glide_ms=None if gesture.edition >= EDITION else gesture.glide_ms,
    )  # fmt: skip
    parts = []
    for span, name, own in (((a, frame), edited.note.id, first), ((frame, b), other, second)):
        made = _described(analysis, edited.note, *span, name)
        parts.append(replace(edited, note=made, gesture=_own_target(edited, made, own, keys)))
    return {edited.note.id: (edited, parts[0]), other: (None, parts[1])}


def _own_target(edited: EditedNote, part: Note, gesture: Gesture, keys: KeyMap) -> Gesture:
    """The gesture of a part of a note, on the allowed pitch nearest to that part; off it as far as the note was."""
    if gesture.target_midi is None:
        return gesture
    if gesture.rounding == "free":
        return replace(gesture, target_midi=gesture.target_midi + part.centre_midi - edited.note.centre_midi)
    return replace(gesture, target_midi=keys.of(part).nearest(part.centre_midi, gesture.rounding))


def strokes_within(strokes: tuple[Stroke, ...], start_s: float, end_s: float) -> tuple[Stroke, ...]:
    """What lies of hand curves between two times."""
    kept = []
    for stroke in strokes:
        times, pitches = np.array(stroke.points).T
        low, high = max(start_s, times[0]), min(end_s, times[-1])
        if high - low >= 2 * HOP_S:
            inner = [(float(t), float(p)) for t, p in stroke.points if low < t < high]
            ends = [(float(t), float(np.interp(t, times, pitches))) for t in (low, high)]
            kept.append(replace(stroke, points=(ends[0], *inner, ends[1])))
    return tuple(kept)


def split_two_pitches(
    notes: Notes, keys: KeyMap, analysis: Analysis, *, note_ids: Sequence[str] = ()
) -> NoteChange:  # fmt: skip
    """Cut every note that holds two pitches where one passes into the other; all of the track when none is named."""
    chosen = selected(notes, note_ids) if note_ids else list(notes.values())
    number = int(_fresh_id(notes)[1:])
    change: NoteChange = {}
    for edited in chosen:
        if edited.leave_as_sung or edited.note.spoken:
            continue
        found = step_between(edited.note, as_read(analysis.contour, [edited.note]))
        if found is None:
            continue
        change |= _cut(edited, keys, analysis, found, f"n{number:04d}")
        number += 1
    if not change:
        raise ParameterError("None of these notes holds two pitches.")
    return change


def join(notes: Notes, keys: KeyMap, analysis: Analysis, *, note_ids: Sequence[str]) -> NoteChange:
    """Make one note of neighbours; it keeps what was asked of the longest."""
    del keys
    chosen = sorted(selected(notes, note_ids), key=lambda e: e.note.start_s)
    ordered = [e.note.id for e in sorted(notes.values(), key=lambda e: e.note.start_s)]
    first = ordered.index(chosen[0].note.id)
    if len(chosen) < 2 or ordered[first : first + len(chosen)] != [e.note.id for e in chosen]:
        raise ParameterError("Select two or more notes that follow each other to join them.")
    a, b = round(chosen[0].note.start_s / HOP_S), round(chosen[-1].note.end_s / HOP_S)
    if not analysis.contour.voiced[a:b].mean() > 0.5:
        raise ParameterError("Between these notes there is more silence than voice; they cannot be one.")
    longest = max(chosen, key=lambda e: e.note.end_s - e.note.start_s)
    strokes = tuple(stroke for e in chosen for stroke in e.gesture.hand)
    made = _described(analysis, longest.note, a, b, chosen[0].note.id)
    kept = replace(
        longest.gesture, hand=strokes, start_shift_ms=chosen[0].gesture.start_shift_ms,
        end_shift_ms=chosen[-1].gesture.end_shift_ms,
    )  # fmt: skip
    whole = EditedNote(replace(made, phrase=chosen[0].note.phrase), kept)
    change: NoteChange = {e.note.id: (e, None) for e in chosen[1:]}
    change[chosen[0].note.id] = (chosen[0], whole)
    return change


def move_edge(
    notes: Notes, keys: KeyMap, analysis: Analysis, *, note_id: str, side: str, at_s: float, follow: bool = True
) -> NoteChange:
    """Move the start or end of a note; a neighbour that touches it follows, or is left and only gives way."""
    del keys
    edited = _note(notes, note_id)
    note = edited.note
    frame = round(in_range(at_s, 0.0, len(analysis.contour.midi) * HOP_S, "The edge (s)") / HOP_S)
    a, b = note_frames(note, len(analysis.contour.midi))
    a, b = (frame, b) if side == "start" else (a, frame)
    if (b - a) * HOP_S < SHORTEST_S or not analysis.contour.voiced[a:b].any():
        raise ParameterError("A note must be at least 40 ms long and have a pitch in it.")
    change: NoteChange = {note_id: (edited, replace(edited, note=_described(analysis, note, a, b, note_id)))}
    for other in notes.values():
        if other.note.id == note_id:
            continue
        c, d = note_frames(other.note, len(analysis.contour.midi))
        touching = (side == "start" and abs(other.note.end_s - note.start_s) < 2 * HOP_S) or (
            side == "end" and abs(other.note.start_s - note.end_s) < 2 * HOP_S
        )
        if touching and follow:
            c, d = (c, a) if side == "start" else (b, d)
        else:
            c, d = (c, min(d, a)) if c < a else (max(c, b), d)
        if (c, d) == note_frames(other.note, len(analysis.contour.midi)):
            continue
        if (d - c) * HOP_S < SHORTEST_S:
            raise ParameterError("That would leave the neighbour shorter than 40 ms; join the two instead.")
        change[other.note.id] = (other, replace(other, note=_described(analysis, other.note, c, d, other.note.id)))
    return change


def make_note(notes: Notes, keys: KeyMap, analysis: Analysis, *, start_s: float, end_s: float) -> NoteChange:
    """Make a note of a voiced stretch that belongs to none."""
    del keys
    n = len(analysis.contour.midi)
    a, b = (round(in_range(t, 0.0, n * HOP_S, "The time (s)") / HOP_S) for t in (start_s, end_s))
    if any(e.note.start_s < b * HOP_S - 1e-9 and e.note.end_s > a * HOP_S + 1e-9 for e in notes.values()):
        raise ParameterError("There is already a note in this stretch.")
    if (b - a) * HOP_S < SHORTEST_S or not np.isfinite(analysis.contour.midi[a:b]).any():
        raise ParameterError("No pitch is found in this stretch, so no note can be made of it.")
    near = min(notes.values(), key=lambda e: abs(e.note.start_s - start_s), default=None)
    note_id = _fresh_id(notes)
    phrase = near.note.phrase if near else 0
    made = describe_note(note_id, analysis.contour.midi, analysis.level_db, a, b, phrase)
    return {note_id: (None, EditedNote(made))}


def move_octave(notes: Notes, keys: KeyMap, analysis: Analysis, *, note_ids: Sequence[str], octaves: int) -> NoteChange:
    """Correct notes that were read an octave wrong; the sound does not change by it."""
    del keys
    chosen = selected(notes, note_ids)
    after = []
    for edited in chosen:
        note = replace(edited.note, octave=edited.note.octave + octaves)
        in_range(note.octave, -3, 3, "Octaves")
        a, b = note_frames(note, len(analysis.contour.midi))
        made = _described(analysis, note, a, b, note.id)
        in_range(made.centre_midi, 12.0, 120.0, "The pitch (MIDI)")
        after.append(replace(edited, note=made))
    return difference(chosen, after)


def read_again(
    notes: Notes,
    keys: KeyMap,
    analysis: Analysis,
    readings: Mapping[str, Reading],
    *,
    note_ids: Sequence[str],
    **_range: float,
) -> NoteChange:
    """Take another reading of the pitch of notes, as it was found in the recording within a range of pitches."""
    del keys
    chosen = selected(notes, note_ids)
    after = []
    for edited in chosen:
        reading = readings[edited.note.id]
        if all(value is None for value in reading.midi):
            raise ParameterError("No pitch is found in that range; try another one.")
        note = replace(edited.note, octave=0, reading=reading)
        a, b = note_frames(note, len(analysis.contour.midi))
        after.append(replace(edited, note=_described(analysis, note, a, b, note.id)))
    return difference(chosen, after)


def centre_here(
    notes: Notes, keys: KeyMap, analysis: Analysis, *, note_id: str, start_s: float, end_s: float
) -> NoteChange:
    """Judge a note's centre by the part between two times."""
    del keys
    edited = _note(notes, note_id)
    start, end = max(start_s, edited.note.start_s), min(end_s, edited.note.end_s)
    if not end - start >= 4 * HOP_S:
        raise ParameterError("Mark at least 20 ms inside the note to take the centre from.")
    note = replace(edited.note, centre_span=(float(start), float(end)))
    parts = split_note(as_read(analysis.contour, [note]), analysis.level_db, note)
    return difference([edited], [replace(edited, note=replace(note, centre_midi=parts.centre))])


def recut(
    notes: Notes, keys: KeyMap, analysis: Analysis, *, sensitivity: float, note_ids: Sequence[str] = ()
) -> NoteChange:
    """Cut again with more (positive) or fewer notes, the whole track or the stretch of a selection.

    Notes that come out alike keep their name and all that was asked of them.
    """
    del keys
    span = (0.0, float("inf"))
    if note_ids:
        chosen = selected(notes, note_ids)
        span = (min(e.note.start_s for e in chosen), max(e.note.end_s for e in chosen))
    old = {i: e for i, e in notes.items() if e.note.end_s > span[0] and e.note.start_s < span[1]}
    if not old:
        raise NotFoundError("There are no notes to cut again.")
    change: NoteChange = {note_id: (edited, None) for note_id, edited in old.items()}
    number = int(_fresh_id(notes)[1:])
    cut = note_ranges(analysis.contour.midi, analysis.level_db, sensitivity=sensitivity)
    for a, b in with_creak(cut, creak_of(analysis.notes, analysis.contour.midi)):
        if (a + b) / 2 * HOP_S < span[0] or (a + b) / 2 * HOP_S > span[1]:
            continue
        near = min(old.values(), key=lambda e: abs(e.note.start_s - a * HOP_S) + abs(e.note.end_s - b * HOP_S))
        alike = abs(near.note.start_s - a * HOP_S) < ALIKE_S and abs(near.note.end_s - b * HOP_S) < ALIKE_S
        if alike and change.get(near.note.id, (None, near))[1] is None:
            del change[near.note.id]
            continue
        made = describe_note(f"n{number:04d}", analysis.contour.midi, analysis.level_db, a, b, near.note.phrase)
        change[made.id] = (None, EditedNote(made))
        number += 1
    return change


def lost_edits(change: Mapping[str, tuple[EditedNote | None, EditedNote | None]]) -> list[EditedNote]:
    """Notes with something asked of them that a change takes away."""
    return [
        before
        for before, after in change.values()
        if isinstance(before, EditedNote) and after is None and not before.gesture.is_as_sung
    ]
