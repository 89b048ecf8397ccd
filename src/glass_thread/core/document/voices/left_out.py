"""What another voice leaves out: everything but the notes that it sings is silent, as gaps."""

from __future__ import annotations

from collections.abc import Collection

from ...signal.ramps import LEVEL_RAMP_S
from ..content import Content, ContentChange, Gap, fresh_ids

_BEFORE_S, _AFTER_S = 0.03, 0.06  # of a note that are its own: how it sets in and how it dies away
_TOUCH_S = 0.06  # of air that belongs to the note after or before it


def left_out(content: Content, sung: Collection[str], duration_s: float) -> ContentChange:
    """Gaps over all that is not sung, with the consonants of what is; none when all notes are."""
    notes = list(content.notes.values())
    if len(sung) >= len(notes):
        return {}
    silent, at = list[tuple[float, float]](), 0.0
    i = 0
    while i < len(notes):
        if notes[i].note.id not in sung:
            i += 1
            continue
        last = i
        while last + 1 < len(notes) and notes[last + 1].note.id in sung:
            last += 1
        low = notes[i - 1].span_s[1] if i else 0.0
        high = notes[last + 1].span_s[0] if last + 1 < len(notes) else duration_s
        silent.append((at, max(low, _sets_in(content, notes[i].span_s[0]))))
        at = min(high, _dies_away(content, notes[last].span_s[1]))
        i = last + 1
    silent.append((at, duration_s))
    wide = [(a, b) for a, b in silent if b - a > 2.0 * LEVEL_RAMP_S]
    gaps = zip(fresh_ids(content, "g", len(wide)), wide, strict=True)
    return {name: (None, Gap(name, a, b)) for name, (a, b) in gaps}


def _sets_in(content: Content, start_s: float) -> float:
    """Where what belongs to the start of a note begins: a consonant or sibilant that leads into it."""
    begin = start_s - _BEFORE_S
    for edited in sorted(content.air.values(), key=lambda one: -one.span_s[1]):
        first, last = edited.span_s
        if edited.event.kind != "breath" and first < start_s and last >= begin - _TOUCH_S:
            begin = min(begin, first - 0.01)
    return max(0.0, begin)


def _dies_away(content: Content, end_s: float) -> float:
    end = end_s + _AFTER_S
    for edited in sorted(content.air.values(), key=lambda one: one.span_s[0]):
        first, last = edited.span_s
        if edited.event.kind != "breath" and last > end_s and first <= end_s + _TOUCH_S:
            end = max(end, last + 0.01)
    return end
