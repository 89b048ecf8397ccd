"""Edit operations by the chords that sound around the voice."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from .....signal.errors import ParameterError
from .....signal.types import Analysis
from .....song.keys import KeyMap
from ....content import Content, ContentChange
from ....notes import EditedNote, current_targets, difference, selected
from ....time.give_way import give_way
from ....time.stretches import track_place
from ....voices.chord_notes import Chords, pure_lean


def lean_to_chords(
    content: Content, keys: KeyMap, analysis: Analysis, *, chords: Sequence[Sequence[float]], note_ids: Sequence[str],
    share: float = 1.0, least_s: float = 0.3,
) -> ContentChange:  # fmt: skip
    """Targets of held thirds and fifths of a chord by a share of the way to the pure interval over its root."""
    chosen = [one for one in selected(content.notes, note_ids) if one.span_s[1] - one.span_s[0] >= least_s]
    found, targets = Chords(chords), current_targets(content.notes, keys)
    stretches = give_way(analysis, content).stretches
    before, after = [], []
    for one in chosen:
        classes = found.at(track_place(stretches, sum(one.span_s) / 2.0))
        even = keys.of(one.note).nearest(targets[one.note.id], "semitone")
        part, cents = pure_lean(keys.of(one.note), even, classes)
        if part:
            before.append(one)
            after.append(_pulled(one, even + share * cents / 100.0))
    if not before:
        raise ParameterError("None of these notes is a held third or fifth of its chord.")
    return difference(before, after)


def _pulled(edited: EditedNote, midi: float) -> EditedNote:
    """A note on a target that it keeps to as far as before, wholly when it was as sung."""
    gesture = edited.gesture
    return replace(edited, gesture=replace(gesture, target_midi=midi, pull=gesture.pull or 1.0, rounding="free"))
