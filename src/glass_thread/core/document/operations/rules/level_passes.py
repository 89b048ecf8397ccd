"""Passes over levels: notes evened out, gaps between phrases cleared."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ....signal.errors import ParameterError
from ....signal.signal_tools import moving_average, runs
from ....signal.types import HOP_S, Analysis
from ....signal.validation import in_range
from ....song.keys import KeyMap
from ...content import Content, ContentChange, Edited, Gap, event_frames, fresh_id
from ...gestures import RANGES, note_frames
from ...notes import EditedNote, NoteChange, Notes, difference, selected

_LEVEL_ENOUGH_DB = 0.05
SHORTEST_GAP_S = 0.1
SOUNDING_DB, DIGITAL_SILENCE_DB = 4.0, -100.0  # over the noise between phrases; less is no noise at all
_SETTLE_S = 0.03
_SOFT_REACH_S = 1.5


def typical_level(notes: Sequence[EditedNote]) -> float:
    """Median level of notes as they will sound, in dBFS, weighted by their lengths."""
    levels = np.array([e.note.level_db + e.gesture.level_db for e in notes])
    lengths = np.array([e.note.end_s - e.note.start_s for e in notes])
    order = np.argsort(levels)
    middle = np.searchsorted(np.cumsum(lengths[order]), lengths.sum() / 2)
    return float(levels[order[min(int(middle), len(levels) - 1)]])


def even_out(
    notes: Notes, keys: KeyMap, *, note_ids: Sequence[str], lift: float = 0.0, hold: float = 0.0
) -> NoteChange:
    """Move notes towards the part's typical level: quiet ones up by the share `lift`, loud ones down by `hold`.

    Notes that lie on it already, within 0.05 dB, are left alone.
    """
    del keys
    chosen = selected(notes, note_ids)
    typical = typical_level(list(notes.values()))
    low, high, _ = RANGES["level_db"]
    after = []
    for edited in chosen:
        missing = typical - edited.note.level_db - edited.gesture.level_db
        moves = abs(missing) > _LEVEL_ENOUGH_DB and not edited.leave_as_sung
        by = missing * (lift if missing > 0 else hold) if moves else 0.0
        level = float(np.clip(round(edited.gesture.level_db + by, 2), low, high)) if by else edited.gesture.level_db
        after.append(replace(edited, gesture=replace(edited.gesture, level_db=level)))
    return difference(chosen, after)


def clear_gaps(
    content: Content,
    keys: KeyMap,
    analysis: Analysis,
    *,
    start_s: float = 0.0,
    end_s: float | None = None,
    level_db: float | None = None,
    keep_before_s: float = 0.08,
    keep_after_s: float = 0.12,
    keep_soft: bool = True,
    keep_breaths: bool = True,
) -> ContentChange:
    """Clear what lies between phrases, between two times: down by `level_db`, or to silence when that is None.

    A chosen time is kept before each phrase's first sound and after its last; soft starts are what rises out of the
    noise right before a phrase without being found as a note or consonant. Gaps cleared before are replaced.
    """
    del keys
    n = len(analysis.contour.midi)
    last = n * HOP_S if end_s is None else in_range(end_s, 0.0, 1e6, "The end (s)")
    in_range(start_s, 0.0, last, "The start (s)")
    if not content.notes:
        raise ParameterError("There are no phrases in this track, so there is nothing between them.")
    kept = _sung(content, analysis, keep_soft=keep_soft)
    before, after = round(keep_before_s / HOP_S), round(keep_after_s / HOP_S)
    kept = _dilated(kept, before, after)
    if keep_breaths:
        for edited in content.air.values():
            if edited.event.kind == "breath":
                a, b = event_frames(edited.event, n)
                kept[max(0, a - 2) : b + 2] = True
    kept[: round(start_s / HOP_S)] = True
    kept[round(last / HOP_S) :] = True
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    for gap in content.gaps.values():
        if gap.end_s > start_s and gap.start_s < last:
            change[gap.id] = (gap, None)
    number = int(fresh_id(content, "g")[1:])
    for a, b in runs(~kept):
        if (b - a) * HOP_S >= SHORTEST_GAP_S:
            made = Gap(
                f"g{number:04d}", a * HOP_S, min(b * HOP_S, analysis.duration_s), level_db or 0.0, level_db is None
            )
            change[made.id] = (None, made)
            number += 1
    return _without_the_same(change)


def fill_gaps_again(
    content: Content, keys: KeyMap, analysis: Analysis, *, gap_ids: Sequence[str] = ()
) -> ContentChange:
    """Put what was cleared back as recorded: the named gaps, or all."""
    del keys, analysis
    wanted = [content.gaps[i] for i in (gap_ids or content.gaps) if i in content.gaps]
    if not wanted:
        raise ParameterError("No gap is cleared here.")
    return {gap.id: (gap, None) for gap in wanted}


def _without_the_same(change: ContentChange) -> ContentChange:
    """Gaps that come out as they were keep their names and are no change."""
    old = {replace(b, id=""): key for key, (b, _) in change.items() if isinstance(b, Gap)}
    kept = dict(change)
    for key, (before, after) in change.items():
        same = old.get(replace(after, id="")) if isinstance(after, Gap) and before is None else None
        if same is not None and same in kept:
            del kept[key], kept[same]
    return kept


def _sung(content: Content, analysis: Analysis, *, keep_soft: bool) -> np.ndarray:
    """Frames of phrases with their consonants and tails; with `keep_soft` also what leads softly into them."""
    n = len(analysis.contour.midi)
    kept = np.zeros(n, dtype=bool)
    phrases: dict[int, list[int]] = {}
    for edited in content.notes.values():
        a, b = note_frames(edited.note, n)
        phrases.setdefault(edited.note.phrase, []).extend((a, b))
    for edges in phrases.values():
        kept[min(edges) : max(edges)] = True
    kept |= analysis.contour.voiced & _near(kept, round(0.3 / HOP_S))
    breath = np.zeros(n, dtype=bool)
    for air in content.air.values():
        a, b = event_frames(air.event, n)
        (breath if air.event.kind == "breath" else kept)[a:b] = True
    smooth = moving_average(10.0 ** (analysis.level_db / 10.0), round(_SETTLE_S / HOP_S) | 1)
    level = 10.0 * np.log10(smooth + 1e-14)
    rest = level[~(kept | breath) & (level > DIGITAL_SILENCE_DB)]
    floor = float(np.percentile(rest, 25)) if len(rest) else DIGITAL_SILENCE_DB
    sounding = (level > floor + SOUNDING_DB) & ~breath
    reach = round(_SOFT_REACH_S / HOP_S)
    for a, b in runs(kept):
        last = b
        while last < min(n, b + reach) and sounding[last]:
            last += 1
        first = a
        while keep_soft and first > max(0, a - reach) and sounding[first - 1]:
            first -= 1
        kept[first:last] = True
    return kept


def _near(mask: np.ndarray, frames: int) -> np.ndarray:
    return _dilated(mask, frames, frames)


def _dilated(mask: np.ndarray, before: int, after: int) -> np.ndarray:
    """Every run made longer by frames before and after it."""
    out = np.zeros(len(mask), dtype=bool)
    for a, b in runs(mask):
        out[max(0, a - before) : b + after] = True
    return out
