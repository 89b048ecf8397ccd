"""Edit operations of followers: what a lead asks becomes ordinary gestures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from .....signal.errors import ParameterError
from .....signal.types import Analysis
from .....song.keys import KeyMap
from ....content import Content, ContentChange, Edited, fresh_id, picked
from ....gestures import AS_SUNG, RANGES, Stroke
from ....items.links import LeadNow, Led, Link
from ....linked.three_way import FACETS, base_of_gesture, renewed_base, still_given
from ....notes import EditedNote, difference, selected
from ....time.give_way import give_way
from ..moving import moved_where_it_fits
from ..time_edits import shifted

_LEAST_MS, _LEAST_DB = 0.5, 0.05  # of a change that is worth a gesture
_SUNG = base_of_gesture(AS_SUNG)  # what a note was given that never followed


def follow(
    content: Content, keys: KeyMap, analysis: Analysis, lead: LeadNow | None, *, lead_track: str,
    note_ids: Sequence[str] = (), timing: float = 0.9, pitch: float = 0.0, level: float = 0.0, movement: bool = False,
    interval: str = "scale", keep_edited: bool = True, anchors: Sequence[Sequence[float]] = (),
) -> ContentChange:  # fmt: skip
    """Bring notes as far as asked to where, how high and how loud the lead has them."""
    del keys
    if lead is None:
        raise ParameterError("A track follows another one of the same song.")
    chosen = selected(content.notes, note_ids) if note_ids else list(content.notes.values())
    chosen = [edited for edited in chosen if not edited.leave_as_sung]
    old = next((link for link in content.links.values() if link.lead_track == lead_track), None)
    bases = {**(old.base if old else {})}
    led = [(edited, lead.notes[edited.note.id]) for edited in chosen if edited.note.id in lead.notes]
    if not led:
        raise ParameterError("None of these notes is sung by the lead too.")
    free = {e.note.id: still_given(bases.get(e.note.id, _SUNG), e) if keep_edited else FACETS for e, _one in led}
    moved = {e.note.id: _moved(e, one, timing) for e, one in led if timing and "time" in free[e.note.id]}
    times = moved_where_it_fits(content, analysis, moved, give_way(analysis, content)) if moved else {}
    after = []
    for edited, one in led:
        in_time = times.get(edited.note.id, (None, edited))[1]
        assert isinstance(in_time, EditedNote)
        name, facets = edited.note.id, free[edited.note.id]
        now = _pitched(in_time, one, pitch, movement=movement) if pitch and "pitch" in facets else in_time
        after.append(_levelled(now, one, level) if level and "level" in facets else now)
        bases[name] = renewed_base(bases.get(name, _SUNG), facets, after[-1].gesture)
    change: dict[str, tuple[Edited | None, Edited | None]] = {**times}
    change |= difference([edited for edited, _one in led], after)
    pairs = tuple((float(lead_s), float(own_s)) for lead_s, own_s in anchors)
    link = Link(old.id if old else fresh_id(content, "f"), lead_track, lead.step_id, timing, pitch, level, movement,
                interval, None, pairs, old is not None and old.by_itself, bases,
                lead.keys if pitch and interval == "scale" else "")  # fmt: skip
    return change if link == old and not change else {**change, link.id: (old, link)}


def _moved(edited: EditedNote, led: Led, timing: float) -> EditedNote:
    edges = zip((led.start_s, led.end_s), edited.span_s, strict=True)
    start_ms, end_ms = (1000.0 * timing * (there - here) for there, here in edges)
    if abs(start_ms) < _LEAST_MS and abs(end_ms) < _LEAST_MS:
        start_ms = end_ms = 0.0
    return shifted(edited, start_ms, end_ms)


def _pitched(edited: EditedNote, led: Led, pitch: float, *, movement: bool) -> EditedNote:
    gesture = edited.gesture
    if movement and len(led.movement) > 1:
        return replace(edited, gesture=replace(gesture, hand=(Stroke(led.movement, keep_fine=True),)))
    return replace(edited, gesture=replace(gesture, target_midi=led.target_midi, pull=pitch, rounding="free"))


def _levelled(edited: EditedNote, led: Led, level: float) -> EditedNote:
    low, high, _words = RANGES["level_db"]
    db = round(float(np.clip(level * led.level_db, low, high)), 2)
    return replace(edited, gesture=replace(edited.gesture, level_db=db if abs(db) >= _LEAST_DB else 0.0))


def unlink(content: Content, keys: KeyMap, analysis: Analysis, *, link_ids: Sequence[str] = ()) -> ContentChange:
    """Take links away; what they gave stays."""
    del keys, analysis
    return {link.id: (link, None) for link in picked(content.links, link_ids, what="link", where="on this version")}


def set_link(
    content: Content, keys: KeyMap, analysis: Analysis, *, link_ids: Sequence[str] = (), by_itself: bool = True
) -> ContentChange:  # fmt: skip
    """Let links catch up by themselves when their lead changes, or only when asked."""
    del keys, analysis
    chosen = picked(content.links, link_ids, what="link", where="on this version")
    return {link.id: (link, replace(link, by_itself=by_itself)) for link in chosen if link.by_itself != by_itself}
