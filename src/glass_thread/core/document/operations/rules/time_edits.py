"""Edit operations on when notes start, how long they last, and what holds still meanwhile."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence
from dataclasses import replace

from ....signal.errors import ParameterError
from ....signal.types import Analysis
from ....signal.validation import in_range
from ....song.keys import KeyMap
from ...content import Content, ContentChange, Pin, fresh_id, picked
from ...gestures import MOST_SHIFT_MS
from ...notes import EditedNote, NoteChange, difference, selected
from ...time.give_way import MAX_STRETCH, MIN_STRETCH, TOUCHING_S, give_way, sung_on
from ...time.stretches import track_place

PIN_APART_S = 0.02
FINEST_MS = 0.001  # shifts are kept to a microsecond, so that there and back again is as sung


def shifted(edited: EditedNote, start_ms: float, end_ms: float) -> EditedNote:
    """A note that starts and ends so many ms later than sung."""
    start, end = (round(in_range(ms, -MOST_SHIFT_MS, MOST_SHIFT_MS, "The shift (ms)") / FINEST_MS) * FINEST_MS
                  for ms in (start_ms, end_ms))  # fmt: skip
    return replace(edited, gesture=replace(edited.gesture, start_shift_ms=start, end_shift_ms=end))


def with_neighbours(content: Content, analysis: Analysis, moved: Sequence[EditedNote]) -> NoteChange:
    """The change to `moved`; notes that are sung on from or to one of them end or start with its start or end.

    Where two of them are, the later one's start holds for both.
    """
    notes = content.notes
    now = {edited.note.id: edited for edited in moved}
    tied = sung_on(analysis, content)
    for left, right in itertools.pairwise(notes.values()):
        a, b = left.note.id, right.note.id
        if (a in now or b in now) and tied(left.note, right.note):
            before, after = now.get(a, left), now.get(b, right)
            if b in now:
                now[a] = shifted(before, before.gesture.start_shift_ms, after.gesture.start_shift_ms)
            else:
                now[b] = shifted(after, before.gesture.end_shift_ms, after.gesture.end_shift_ms)
    return difference([notes[i] for i in now], list(now.values()))


def slip(
    content: Content, keys: KeyMap, analysis: Analysis, *, note_ids: Sequence[str], by_ms: float, follow: bool = False
) -> ContentChange:
    """Move notes later or earlier as a whole; with `follow` all that comes after, up to the next pin."""
    del keys
    chosen = selected(content.notes, note_ids)
    after = [*chosen, *(following(content, chosen) if follow else ())]
    return with_neighbours(content, analysis, [_later(edited, by_ms, by_ms) for edited in after])


def shift_edge(
    content: Content, keys: KeyMap, analysis: Analysis, *, note_ids: Sequence[str], edge: str, by_ms: float,
    follow: bool = False,
) -> ContentChange:  # fmt: skip
    """Have notes start or end later; with `follow` all after a moved end goes along, up to the next pin."""
    del keys
    chosen = selected(content.notes, note_ids)
    ends = edge == "end"
    after = [_later(edited, 0.0 if ends else by_ms, by_ms if ends else 0.0) for edited in chosen]
    if follow and ends:
        after += [_later(edited, by_ms, by_ms) for edited in following(content, chosen)]
    return with_neighbours(content, analysis, after)


def _later(edited: EditedNote, start_ms: float, end_ms: float) -> EditedNote:
    gesture = edited.gesture
    return shifted(edited, gesture.start_shift_ms + start_ms, gesture.end_shift_ms + end_ms)


def following(content: Content, chosen: Sequence[EditedNote]) -> list[EditedNote]:
    """Notes after all of the chosen ones, up to the next pin."""
    last = max(edited.note.end_s for edited in chosen)
    limit = min((pin.at_s for pin in content.pins.values() if pin.at_s > last), default=float("inf"))
    names = {edited.note.id for edited in chosen}
    return [e for e in content.notes.values()
            if e.note.id not in names and last - TOUCHING_S <= e.note.start_s and e.note.end_s <= limit]  # fmt: skip


def set_time(
    content: Content, keys: KeyMap, analysis: Analysis, *, note_ids: Sequence[str], values: Mapping[str, float]
) -> ContentChange:
    """Set when notes start or end, in ms later than sung, or how long they are: in ms, or times as long as sung."""
    del keys
    chosen = selected(content.notes, note_ids)
    if not values:
        raise ParameterError("The edit names no value to set.")
    if sum(name in values for name in ("end_shift_ms", "length_ms", "length")) > 1:
        raise ParameterError("Say how long a note is in one way: by its end, in ms, or against as sung.")
    after = []
    for edited in chosen:
        sung_ms = (edited.note.end_s - edited.note.start_s) * 1000.0
        start = values.get("start_shift_ms", edited.gesture.start_shift_ms)
        length = sung_ms + edited.gesture.end_shift_ms - edited.gesture.start_shift_ms
        length = values.get("length_ms", values.get("length", length / sung_ms) * sung_ms)
        in_range(length / sung_ms, MIN_STRETCH, MAX_STRETCH, "The length against as sung")
        after.append(shifted(edited, start, values.get("end_shift_ms", start + length - sung_ms)))
    return with_neighbours(content, analysis, after)


def add_pin(content: Content, keys: KeyMap, analysis: Analysis, *, at_s: float) -> ContentChange:
    """Hold a moment of the recording where it is in the track."""
    del keys
    in_range(at_s, PIN_APART_S, analysis.duration_s - PIN_APART_S, "The place of a pin (s)")
    if any(abs(pin.at_s - at_s) < PIN_APART_S for pin in content.pins.values()):
        raise ParameterError("There is a pin here already.")
    pin = Pin(fresh_id(content, "p"), at_s, track_place(give_way(analysis, content).stretches, at_s))
    return {pin.id: (None, pin)}


def remove_pins(content: Content, keys: KeyMap, analysis: Analysis, *, pin_ids: Sequence[str] = ()) -> ContentChange:
    """Take pins away, all when none is named; what they held still gives way again."""
    del keys, analysis
    return {pin.id: (pin, None) for pin in _pins(content, pin_ids)}


def move_pins(
    content: Content, keys: KeyMap, analysis: Analysis, *, pin_ids: Sequence[str], by_ms: float
) -> ContentChange:
    """Move pins later or earlier; between pins everything gives way."""
    del keys, analysis
    return {pin.id: (pin, replace(pin, track_s=pin.track_s + by_ms / 1000.0)) for pin in _pins(content, pin_ids)}


def _pins(content: Content, pin_ids: Sequence[str]) -> list[Pin]:
    return picked(content.pins, pin_ids, what="pin", where="in this track")
