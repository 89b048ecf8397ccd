"""The plan: what all edits of a moment ask of a track, on the analysis grid.

One function builds it from nothing, another from the plan of a neighbouring moment; both give the same to the last
bit, because both write windows between which nothing is sung through.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.content import Content, ContentChange, EditedAir, Gap, event_frames, frames_of
from ..document.gestures import as_read, note_frames
from ..document.items.borrows import Borrow
from ..document.items.comps import Choice
from ..document.items.glazes import Glaze
from ..document.items.level_stretches import LevelStretch
from ..document.items.links import Link
from ..document.notes import EditedNote
from ..document.places import Places
from ..document.time.give_way import NOTHING, Giving, give_way
from ..document.time.stretches import Stretch, track_anchors
from ..signal.signal_tools import run_around, runs, voiced_around
from ..signal.types import HOP_S, Analysis, Contour, Floats
from ..song.keys import KeyMap
from .formant_plan import fill_formant
from .level_plan import RAMP_FRAMES, fill_level
from .pitch.glaze import fill_glaze
from .pitch.pitch_plan import fill_correction
from .time_map import TimeMap, sample_map
from .times import TrackTimes

_MARGIN = RAMP_FRAMES + 1
_BLEND_S = 0.02  # around what was displaced: pieces are rounded to samples, and voices blend over a cycle
_BEFORE_S = 0.08  # in which a voice that is sung on already passes over to what is stretched
Window = tuple[int, int]


@dataclass(frozen=True)
class Plan:
    """What is asked of a whole track.

    Attributes
    ----------
    contour : Contour
        The sung pitch as it is heard: as its notes are read, none in voiceless air.
    correction, formant : ndarray, shape (n_frames,)
        Tuned minus sung pitch, and shift of the vocal tract's resonances, in semitones; 0 = untouched.
    level_db : ndarray, shape (n_frames,)
        Change of level; `SILENT_DB` or less is silence.
    glaze : ndarray, shape (n_frames,)
        The part of the correction that glazes add.
    giving : Giving
        What gives way to what was moved in time; no stretches: nothing was.
    borrows : tuple of Borrow
        What is heard in the place of the recording; the contour is that of what is heard.
    """

    contour: Contour
    correction: Floats
    formant: Floats
    level_db: Floats
    glaze: Floats
    giving: Giving = NOTHING
    borrows: tuple[Borrow, ...] = ()

    @cached_property
    def stretches(self) -> tuple[Stretch, ...]:
        """The stretches of the recording that change their length, in order of time."""
        return self.giving.stretches

    @cached_property
    def times(self) -> TrackTimes:
        """The time map, without the track's place in the song."""
        return TrackTimes(0.0, *track_anchors(self.stretches))

    @cached_property
    def _edges(self) -> tuple[Floats, Floats]:
        return np.array([one.start_s for one in self.stretches]), np.array([one.end_s for one in self.stretches])

    def stretches_in(self, start_s: float, end_s: float) -> tuple[Stretch, ...]:
        """Those that reach into a time of the recording."""
        starts, ends = self._edges
        return self.stretches[int(np.searchsorted(ends, start_s, side="right")) : int(np.searchsorted(starts, end_s))]

    @cached_property
    def _maps(self) -> dict[int, TimeMap]:
        return {}

    def moves(self, sample_rate: int) -> TimeMap:
        """The time map in samples; made once a rate."""
        if sample_rate not in self._maps:
            self._maps[sample_rate] = sample_map(self.stretches, sample_rate)
        return self._maps[sample_rate]

    def stretch_of(self, start_s: float, end_s: float) -> float:
        """How many times as long as sung a stretch of the recording lasts in the track."""
        added = sum(
            one.added_s * (min(end_s, one.end_s) - max(start_s, one.start_s)) / (one.end_s - one.start_s)
            for one in self.stretches_in(start_s, end_s)
        )
        return 1.0 + added / (end_s - start_s)

    def asked(self, first: int, last: int) -> bool:
        """True when pitch or formants change in frames [first, last)."""
        return bool(self.correction[first:last].any() or self.formant[first:last].any())


def untouched_plan(analysis: Analysis) -> Plan:
    """The plan that changes nothing, with the pitch as it was found."""
    n = len(analysis.contour.midi)
    return Plan(analysis.contour, np.zeros(n), np.zeros(n), np.zeros(n), np.zeros(n))


def build_plan(analysis: Analysis, content: Content, keys: KeyMap) -> Plan:
    """The plan of a content, from nothing; where it borrows, `analysis` is that of what is heard."""
    n = len(analysis.contour.midi)
    plan = replace(untouched_plan(analysis), giving=give_way(analysis, content), borrows=_borrows(content))
    return _refilled(plan, analysis, content, keys, [(0, n)]) if n else plan


def _borrows(content: Content) -> tuple[Borrow, ...]:
    return tuple(content.borrows.values())


def changed_plan(
    plan: Plan, analysis: Analysis, after: Content, change: ContentChange, keys: KeyMap
) -> tuple[Plan, list[Window]]:
    """The plan of the content `after` a change to what `plan` was made of, and the frames in which it may differ."""
    change = {key: pair for key, pair in change.items() if not isinstance(pair[0] or pair[1], (Choice, Link))}
    if not change:
        return plan, []
    spans = [state.span_s for pair in change.values() for state in pair if state is not None]
    giving = give_way(analysis, after, plan.giving, spans)
    moved = replace(plan, giving=giving, borrows=_borrows(after))
    windows = _touched(plan, analysis, after, change, restretched(plan.stretches, moved.stretches))
    return (_refilled(moved, analysis, after, keys, windows), windows) if windows else (moved, [])


def windows_between(plan: Plan, known: Plan, analysis: Analysis, after: Content, change: ContentChange) -> list[Window]:
    """The frames in which the plan of the content `after` a change, which is `known`, may differ from `plan`."""
    change = {key: pair for key, pair in change.items() if not isinstance(pair[0] or pair[1], (Choice, Link))}
    return _touched(plan, analysis, after, change, restretched(plan.stretches, known.stretches)) if change else []


def restretched(before: Sequence[Stretch], after: Sequence[Stretch]) -> list[tuple[float, float]]:
    """Seconds of the recording that are stretched in another way than before."""
    return [(each.start_s, each.end_s) for each in set(before) ^ set(after)]


def _touched(
    plan: Plan, analysis: Analysis, after: Content, change: ContentChange, spans: Sequence[tuple[float, float]]
) -> list[Window]:
    """Windows around what changed and some spans in seconds, grown until nothing is sung through at their ends."""
    n = len(plan.correction)
    states = [state for pair in change.values() for state in pair if state is not None]
    if not states or n == 0:
        return []
    states += _leaning(after, change)
    busy = np.isfinite(analysis.contour.midi) | np.isfinite(plan.contour.midi)
    sung = Places({str(i): state for i, state in enumerate(states) if isinstance(state, EditedNote)})
    for places in (after.places(EditedNote), sung):
        busy |= _covered(*places.frames(n), n)
    wanted = np.zeros(n, dtype=bool)
    stretched = [(round(a / HOP_S), min(n, round(b / HOP_S))) for a, b in spans]
    for a, b in [*(frames_of(state, n) for state in states), *stretched]:
        a, b = max(0, a - _MARGIN), min(n, b + _MARGIN)
        if not wanted[a:b].all() or a == b:
            first, last = run_around(busy, a, max(b, a + 1))
            wanted[first:last] = True
    return runs(wanted)


def _covered(starts: NDArray[np.int64], ends: NDArray[np.int64], n: int) -> NDArray[np.bool_]:
    """Which of `n` frames lie in one of some half-open ranges."""
    steps = np.zeros(n + 1, dtype=np.int64)
    np.add.at(steps, np.clip(starts, 0, n), 1)
    np.add.at(steps, np.clip(np.maximum(starts, ends), 0, n), -1)
    return np.cumsum(steps)[:n] > 0


def _leaning(after: Content, change: ContentChange) -> list[EditedNote]:
    """Neighbours of changed notes whose target was never fixed, so that it leans on what is around them."""
    if not any(e.gesture.pull > 0.0 and e.gesture.target_midi is None for e in after.notes.values()):
        return []
    ordered = list(after.notes.values())
    missing = any(isinstance(was, EditedNote) and now is None for was, now in change.values())
    near = []
    for i, edited in enumerate(ordered):
        around = ordered[max(0, i - 1) : i + 2]
        if edited.gesture.target_midi is None and (missing or any(other.note.id in change for other in around)):
            near.append(edited)
    return near


def _refilled(plan: Plan, analysis: Analysis, content: Content, keys: KeyMap, windows: list[Window]) -> Plan:
    midi, correction, formant, level, glaze = (
        values.copy() for values in (plan.contour.midi, plan.correction, plan.formant, plan.level_db, plan.glaze)
    )
    starts, ends = content.places(EditedNote).frames(len(midi))
    sung = (int(starts.min(initial=len(midi))), int(ends.max(initial=0)))

    def near_by(kind: type, window: Window) -> list[Any]:
        """Items of a kind that reach to within a level ramp of the window, in order of time."""
        first, last = (window[0] - RAMP_FRAMES - 1) * HOP_S, (window[1] + RAMP_FRAMES + 1) * HOP_S
        return content.places(kind).near(first, last)

    for window in windows:
        a, b = window
        ordered = [e for e in near_by(EditedNote, window) if max(note_frames(e.note, len(midi))) > a]
        ordered = [e for e in ordered if note_frames(e.note, len(midi))[0] < b]
        air: list[EditedAir] = near_by(EditedAir, window)
        gaps: list[Gap] = near_by(Gap, window)
        near = plan.stretches_in(a * HOP_S, b * HOP_S)
        read = as_read(analysis.contour, [edited.note for edited in ordered])
        midi[a:b] = read.midi[a:b]
        _silence_air(midi, air, window)
        correction[a:b] = formant[a:b] = glaze[a:b] = 0.0
        heard = replace(analysis.contour, midi=midi)
        fill_correction(correction, heard, read, analysis.level_db, ordered, content.notes, keys, near)
        correction[a:b][np.isnan(midi[a:b])] = 0.0
        glazes: list[Glaze] = near_by(Glaze, window)
        reach = (max(a, sung[0]), min(b, sung[1]))
        fill_glaze(glaze, midi, correction, analysis.level_db, ordered, glazes, keys, near, reach=reach)
        correction[a:b] += glaze[a:b]
        fill_formant(formant, ordered)
        stretches: list[LevelStretch] = near_by(LevelStretch, window)
        fill_level(level, window, ordered, air, gaps, stretches)
    heard = plan.contour if np.array_equal(midi, plan.contour.midi, equal_nan=True) else replace(heard, midi=midi)
    return replace(plan, contour=heard, correction=correction, formant=formant, level_db=level, glaze=glaze)


def _silence_air(midi: Floats, air: Iterable[EditedAir], window: Window) -> None:
    """No pitch in voiceless air, so that air is never pitch-shifted; inside the window, in place."""
    for edited in air:
        if not edited.event.voiced:
            a, b = event_frames(edited.event, len(midi))
            midi[max(a, window[0]) : max(min(b, window[1]), window[0])] = np.nan


def changed_spans(before: Plan, after: Plan, windows: Iterable[Window] | None = None) -> list[tuple[float, float]]:
    """Time ranges in seconds of the track whose sound differs between two plans of it.

    With `windows` (of the recording) only there, and where things are displaced; without, anywhere.
    """
    found: list[tuple[float, float]] = []
    for low, high in windows if windows is not None else [(0, len(after.correction))]:
        part = slice(low, high)
        pitch = (before.correction[part] != after.correction[part]) | (before.formant[part] != after.formant[part])
        old, new = before.contour.midi[part], after.contour.midi[part]
        pitch |= np.nan_to_num(old) != np.nan_to_num(new)
        voiced = dict.fromkeys(runs(np.isfinite(old)) + runs(np.isfinite(new)))
        touched = [(a, b) for a, b in voiced if pitch[a:b].any()]
        touched += runs(before.level_db[part] != after.level_db[part])
        found += [(max(0.0, (low + a - 1) * HOP_S), (low + b + 1) * HOP_S) for a, b in touched]
    if before.borrows != after.borrows:
        found += [one.span_s for one in set(before.borrows) ^ set(after.borrows)]
    if not before.stretches and not after.stretches:
        return found
    placed = [(float(times.source_to_track(a)), float(times.source_to_track(b)))
              for a, b in found for times in (before.times, after.times)]  # fmt: skip
    return placed + displaced_spans(before, after)


def displaced_spans(before: Plan, after: Plan) -> list[tuple[float, float]]:
    """Time ranges in seconds of the track in which another moment of the recording is heard than before.

    Where voice goes on after a stretched vowel, its cycles are off their place by up to half of one until it stops.
    """
    if before.stretches == after.stretches:
        return []
    marks = np.unique(np.concatenate([(0.0,), *(p.times.track_s for p in (before, after))]))
    away = [np.abs(before.times.track_to_source(at) - after.times.track_to_source(at)) > 1e-7
            for at in (marks, (marks[1:] + marks[:-1]) / 2)]  # fmt: skip
    busy = away[0][:-1] | away[0][1:] | away[1]
    spans = [(float(marks[a]), float(marks[b])) for a, b in runs(busy)]
    if away[0][-1]:
        spans.append((float(marks[-1]), after.contour.hop_s * len(after.correction) + 1.0))
    return [(max(0.0, a - _BEFORE_S), max(_voice_stops(plan, b) for plan in (before, after)) + _BLEND_S)
            for a, b in spans]  # fmt: skip


def _voice_stops(plan: Plan, at_s: float) -> float:
    """The next moment of the track without a voice, in seconds."""
    source_s = float(plan.times.track_to_source(at_s))
    here = min(max(0, round(source_s / HOP_S)), len(plan.contour.midi))
    stays = voiced_around(plan.contour.midi, here, here)[1] - here
    return float(plan.times.source_to_track(source_s + stays * HOP_S)) if stays else at_s


def changed_frames(before: Plan, after: Plan, windows: Iterable[Window]) -> list[Window]:
    """The shortest frame ranges inside `windows` that hold every difference between two plans."""
    found = []
    for low, high in windows:
        part = slice(low, high)
        differs = (before.correction[part] != after.correction[part]) | (before.level_db[part] != after.level_db[part])
        differs |= np.nan_to_num(before.contour.midi[part]) != np.nan_to_num(after.contour.midi[part])
        for one in set(before.borrows) ^ set(after.borrows):  # also their levels and outlines are others
            differs[max(0, round(one.start_s / HOP_S) - low) : max(0, round(one.end_s / HOP_S) + 1 - low)] = True
        where = np.flatnonzero(differs)
        if len(where):
            found.append((low + int(where[0]), low + int(where[-1]) + 1))
    return found
