"""What gives way when notes are moved in time: silence first, then breaths, which only shorten, then vowels.

Between two moments that are held, consonants, sibilants and the ways into and out of notes keep their length.  A note
that was not moved holds both its edges where they were sung; the one next to a moved note gives way with its vowel
when there is not enough silence between them, and still holds its far edge.
"""

from __future__ import annotations

import itertools
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ...signal.signal_tools import runs
from ...signal.types import HOP_S, Analysis, Note
from ..content import Content, EditedAir
from ..notes import EditedNote
from .stretches import Give, Stretch

MIN_STRETCH, MAX_STRETCH = 0.25, 4.0
_KINDS = ("silence", "breath", "vowel")
_LIMITS = {"silence": (0.1, 1e9), "breath": (0.4, 1.0), "vowel": (MIN_STRETCH, MAX_STRETCH)}
_EXTREME = 0.05  # how far anything is pressed together when nothing gives way
TOUCHING_S = 2 * HOP_S
_SOUND_EDGE_S = 0.01  # of silence and of breaths that keeps its place beside what sounds
_VOICE_EDGE_S, _GLIDE_EDGE_S, _EDGE_SHARE = 0.015, 0.05, 0.25  # of a vowel that keeps its shape at either end
# More of it keeps its shape, in seconds and as a share of a short one, as far as what is left is enough: ways in and
# out take as long in a longer or shorter note.
_STEADY = ((0.09, 0.3), (0.06, 0.22), (0.03, 0.15))
_SHORTEST_FRAMES = 3
_NEAR_S = 0.05
SOON_S = 0.25  # after which a note is followed by a rest
_SILENCE_S, _TAIL_S = 0.1, 0.4  # of silence that gives way at least; beside a note that goes with it, with its room
_BURST_DB = 15.0  # unnamed sound no further than this under the usual level of the voice is no silence


@dataclass(frozen=True)
class Anchor:
    """A moment of the recording with its place in the track; `pin` when it was pinned, not the edge of a moved note."""

    source_s: float
    track_s: float
    pin: bool = False

    @property
    def shift_s(self) -> float:
        """By how much it comes later than sung."""
        return self.track_s - self.source_s


Section = tuple[Anchor, Anchor]


@dataclass(frozen=True)
class Giving:
    """What gives way between neighbouring anchors, and how many seconds could not be found there within the limits."""

    sections: Mapping[Section, tuple[tuple[Stretch, ...], float]]

    @property
    def stretches(self) -> tuple[Stretch, ...]:
        """All in order of time."""
        return tuple(stretch for given, _short in self.sections.values() for stretch in given)

    @property
    def short(self) -> list[tuple[Section, float]]:
        """Sections in which too little gives way, with the seconds that are missing."""
        return [(section, short) for section, (_given, short) in self.sections.items() if abs(short) > 1e-6]


NOTHING = Giving({})


def anchors_of(content: Content, duration_s: float) -> list[Anchor]:
    """The moments that are held by hand, in order of time, with both ends of the recording."""
    held: dict[float, Anchor] = {}
    moved = [edited for edited in content.notes.values() if edited.gesture.moves_time]
    last_s = -1.0
    for edited in moved:
        note, gesture = edited.note, edited.gesture
        if abs(note.start_s - last_s) < TOUCHING_S:  # where it is sung through, the end before is this start
            del held[last_s]
        held[note.start_s] = Anchor(note.start_s, note.start_s + gesture.start_shift_ms / 1000.0)
        held[note.end_s] = Anchor(note.end_s, note.end_s + gesture.end_shift_ms / 1000.0)
        last_s = note.end_s
    held[0.0], held[duration_s] = Anchor(0.0, 0.0, True), Anchor(duration_s, duration_s, True)
    for pin in content.pins.values():
        held[pin.at_s] = Anchor(pin.at_s, pin.track_s, True)
    ordered = [held[at] for at in sorted(held)]
    for i in range(1, len(ordered)):  # whatever was asked, time never runs backwards
        before, here = ordered[i - 1], ordered[i]
        earliest = before.track_s + _EXTREME * (here.source_s - before.source_s)
        if here.track_s < earliest:
            ordered[i] = Anchor(here.source_s, earliest, here.pin)
    return ordered


class _Stage:
    """The notes and the air of a track in order of time, to be looked up by place."""

    def __init__(self, analysis: Analysis, content: Content) -> None:
        self.analysis, self.content = analysis, content
        self.notes = list(content.notes.values())
        self.air = list(content.air.values())
        self._note_starts = [edited.note.start_s for edited in self.notes]
        self._air_starts = [edited.event.start_s for edited in self.air]
        own = analysis.as_recorded
        sung = own.level_db[own.contour.voiced]
        self._quiet_db = float(np.median(sung)) - _BURST_DB if len(sung) else 0.0

    def notes_in(self, start_s: float, end_s: float) -> list[EditedNote]:
        """Notes that sound between two times."""
        first = max(0, bisect_right(self._note_starts, start_s) - 2)
        near = self.notes[first : bisect_left(self._note_starts, end_s)]
        return [edited for edited in near if edited.note.end_s > start_s + 1e-9]

    def holds(self, start_s: float, end_s: float) -> list[tuple[float, bool]]:
        """Edges of notes that were not moved between two times; True for ends."""
        near = (start_s + TOUCHING_S, end_s - TOUCHING_S)
        found = []
        for edited in self.notes_in(start_s, end_s):
            if not edited.gesture.moves_time:
                edges = ((edited.note.start_s, False), (edited.note.end_s, True))
                found += [edge for edge in edges if near[0] < edge[0] < near[1]]
        return found

    def material(
        self, start_s: float, end_s: float, steady: tuple[float, float] | None = None
    ) -> list[tuple[float, float, Give]]:
        """What may give way between two times, in order of time; of vowels only what lies further from both ends than
        `steady`, seconds and a share of the note, when asked."""
        n = len(self.analysis.contour.midi)
        low, high = max(0, round(start_s / HOP_S)), min(n, round(end_s / HOP_S))
        if high - low < _SHORTEST_FRAMES:
            return []
        voiced = np.isfinite(self.analysis.contour.midi[low:high])
        silent = ~voiced & (self.analysis.level_db[low:high] < self._quiet_db)
        breath, free = np.zeros(high - low, dtype=bool), np.ones(high - low, dtype=bool)
        for event in self._events(start_s - _NEAR_S, end_s + _NEAR_S):
            part = _inner(event.event.start_s, event.event.end_s, low, high, -_SOUND_EDGE_S)
            silent[part] = free[part] = False
            if event.event.kind == "breath":
                breath[_inner(event.event.start_s, event.event.end_s, low, high, _SOUND_EDGE_S)] = True
        found: list[tuple[int, int, Give]] = []
        for edited in self.notes_in(start_s - _NEAR_S, end_s + _NEAR_S):
            silent[_inner(edited.note.start_s, edited.note.end_s, low, high, -_SOUND_EDGE_S)] = False
            found += [(a, b, "vowel") for a, b in self._vowels(edited, voiced & free, low, high, steady)]
        found += [(a, b, "silence") for a, b in runs(silent)] + [(a, b, "breath") for a, b in runs(breath)]
        return [(max((low + a) * HOP_S, start_s), min((low + b) * HOP_S, end_s), kind)
                for a, b, kind in sorted(found) if b - a >= _SHORTEST_FRAMES]  # fmt: skip

    def _events(self, start_s: float, end_s: float) -> list[EditedAir]:
        first = max(0, bisect_right(self._air_starts, start_s) - 3)
        return self.air[first : bisect_left(self._air_starts, end_s)]

    def _vowels(
        self, edited: EditedNote, voice: np.ndarray, low: int, high: int, steady: tuple[float, float] | None
    ) -> list[tuple[int, int]]:
        """Frame ranges of a note that may be stretched: its voice, off the ways in and out of it and of air."""
        note = edited.note
        inside = np.zeros(high - low, dtype=bool)
        inside[_inner(note.start_s, note.end_s, low, high, 0.0)] = True
        length = note.end_s - note.start_s
        through = [
            any(abs(other.note.end_s - note.start_s) < TOUCHING_S for other in self._beside(note.start_s)),
            any(abs(other.note.start_s - note.end_s) < TOUCHING_S for other in self._beside(note.end_s)),
        ]
        edges = [min(_GLIDE_EDGE_S if glides else _VOICE_EDGE_S, _EDGE_SHARE * length) for glides in through]
        if steady:
            edges = [max(edge, min(steady[0], steady[1] * length)) for edge in edges]
        found, near = [], _SOUND_EDGE_S + HOP_S  # air beside a note takes its first frames
        for a, b in runs(inside & voice):
            first = a + round((edges[0] if (low + a) * HOP_S < note.start_s + near else _VOICE_EDGE_S) / HOP_S)
            last = b - round((edges[1] if (low + b) * HOP_S > note.end_s - near else _VOICE_EDGE_S) / HOP_S)
            found.append((first, last))
        return found

    def _beside(self, at_s: float) -> list[EditedNote]:
        return self.notes_in(at_s - 3 * HOP_S, at_s + 3 * HOP_S)


def _inner(start_s: float, end_s: float, low: int, high: int, inset_s: float) -> slice:
    """Frames from `low` on between two times, each moved inwards by `inset_s`."""
    first, last = round((start_s + inset_s) / HOP_S), round((end_s - inset_s) / HOP_S)
    return slice(min(max(first - low, 0), high - low), min(max(last - low, 0), high - low))


def sung_on(analysis: Analysis, content: Content) -> Callable[[Note, Note], bool]:
    """Tells whether between two neighbouring notes there is nothing that could give way, as a consonant alone."""
    stage = _Stage(analysis, content)

    def tied(left: Note, right: Note) -> bool:
        gap = right.start_s - left.end_s
        return gap < TOUCHING_S or (gap < SOON_S and not stage.material(left.end_s, right.start_s))

    return tied


def give_way(
    analysis: Analysis, content: Content, known: Giving = NOTHING, touched: Iterable[tuple[float, float]] = ()
) -> Giving:
    """What gives way for all notes that were moved and all pins.

    Sections of `known` between the same anchors are taken over unless they meet one of the `touched` spans in seconds.
    """
    anchors = anchors_of(content, analysis.duration_s)
    if len(anchors) == 2 and anchors[-1].shift_s == 0.0:
        return NOTHING
    stage, meets = _Stage(analysis, content), _meeting(touched)
    sections = {}
    for section in itertools.pairwise(anchors):
        left, right = section
        if section in known.sections and not meets(left.source_s - 1.0, right.source_s + 1.0):
            sections[section] = known.sections[section]
        else:
            sections[section] = _given(stage, left, right)
    return Giving(sections)


def _meeting(spans: Iterable[tuple[float, float]]) -> Callable[[float, float], bool]:
    """Tells whether any of some spans reaches between two times; there may be thousands of both."""
    ordered = np.array(sorted(spans)).reshape(-1, 2)
    starts, latest = ordered[:, 0], np.maximum.accumulate(ordered[:, 1])

    def meets(low: float, high: float) -> bool:
        before = int(np.searchsorted(starts, high))
        return before > 0 and bool(latest[before - 1] > low)

    return meets


def fitting(
    analysis: Analysis, content: Content, start_s: float, end_s: float, need_s: float
) -> tuple[tuple[Stretch, ...], float]:
    """What gives way so that a stretch of the recording becomes `need_s` longer, and the seconds that are missing."""
    return _taken(_Stage(analysis, content), start_s, end_s, need_s)


def _given(stage: _Stage, left: Anchor, right: Anchor) -> tuple[tuple[Stretch, ...], float]:
    """What gives way between two anchors, and the seconds that are missing."""
    if abs(left.shift_s) < 1e-9 and abs(right.shift_s) < 1e-9:
        return (), 0.0
    holds = [] if left.pin and right.pin else stage.holds(left.source_s, right.source_s)
    whole = right.shift_s - left.shift_s
    if not holds:
        near = float(abs(right.shift_s) < 1e-9) - float(abs(left.shift_s) < 1e-9)
        return _taken(stage, left.source_s, right.source_s, whole, near)
    first = _reach(stage, left.source_s, holds, -left.shift_s, ends=True)
    last = _reach(stage, right.source_s, holds[::-1], right.shift_s, ends=False)
    if first > last:
        return _taken(stage, left.source_s, right.source_s, whole)
    before, short = _taken(stage, left.source_s, first, -left.shift_s, near=1.0)
    after, missing = _taken(stage, last, right.source_s, right.shift_s, near=-1.0)
    return (*before, *after), short or missing


def _reach(stage: _Stage, at_s: float, holds: Sequence[tuple[float, bool]], need_s: float, *, ends: bool) -> float:
    """How far from an anchor things give way: to the first hold, or over the vowel of the note there."""
    if abs(need_s) < 1e-9:
        return at_s
    for hold_s, is_end in holds:
        if is_end == ends:
            return hold_s
        if abs(_shared(stage.material(min(at_s, hold_s), max(at_s, hold_s)), need_s)[1]) < 1e-9:
            return hold_s
    return holds[-1][0]


def _shared(material: Sequence[tuple[float, float, Give]], need_s: float) -> tuple[dict[str, float], float]:
    """The factor on each kind's length, and what is missing."""
    factors: dict[str, float] = {}
    for kind in _KINDS:
        total = sum(b - a for a, b, its in material if its == kind)
        low, high = _LIMITS[kind]
        part = float(np.clip(need_s, (low - 1.0) * total, (high - 1.0) * total)) if total else 0.0
        factors[kind] = 1.0 + part / total if total else 1.0
        need_s -= part
    return factors, need_s


def _taken(
    stage: _Stage, start_s: float, end_s: float, need_s: float, near: float = 0.0
) -> tuple[tuple[Stretch, ...], float]:
    """Stretches between two times that together are `need_s` longer, and what lay beyond their limits.

    Long silences give way in one place: `near` 1 close to their beginning, −1 close to their end, 0 in their middle.
    """
    need_s = round(need_s, 9)  # so that what is only displaced is the same to the last bit
    if need_s == 0.0:
        return (), 0.0
    for steady in (*_STEADY, None):
        material = stage.material(start_s, end_s, steady)
        factors, short = _shared(material, need_s)
        if abs(short) < 1e-9:
            break
    made = [_stretch(a, b, (b - a) * (factors[kind] - 1.0), kind, near)
            for a, b, kind in material if factors[kind] != 1.0]  # fmt: skip
    if abs(short) > 1e-9:  # the anchors hold whatever it costs; operations refuse to come here
        return (_pressed(start_s, end_s, need_s),), short
    return tuple(made), 0.0


def _stretch(start_s: float, end_s: float, added_s: float, kind: Give, near: float) -> Stretch:
    """What of a piece gives way: all of a vowel or a breath, of silence as much as is needed, off its edges."""
    room = end_s - start_s
    width = min(room, max(_SILENCE_S, 2.0 * abs(added_s))) if kind == "silence" else room
    start = start_s + (room - width) / 2.0
    if near > 0.0:
        start = min(start, start_s + _TAIL_S)
    elif near < 0.0:
        start = max(start, end_s - _TAIL_S - width)
    return Stretch(start, start + width, width + added_s, kind)


def _pressed(start_s: float, end_s: float, need_s: float) -> Stretch:
    return Stretch(start_s, end_s, max(_EXTREME * (end_s - start_s), end_s - start_s + need_s), "silence")


def squeezed(before: Giving, after: Giving) -> str | None:
    """Why a state should not be entered: in words where too little gives way, unless it was so before."""
    known = {section for section, _short in before.short}
    for (left, right), short in after.short:
        if (left, right) not in known:
            place = f"between {left.source_s:.2f} and {right.source_s:.2f} s of the recording"
            if short < 0.0:
                return f"There is no room {place}: silence and vowels there would have to give way {_ms(short)} more."
            return f"There is too little vowel {place}: it cannot be held {_ms(short)} longer still."
    return None


def _ms(seconds: float) -> str:
    return f"{abs(seconds) * 1000.0:.0f} ms"
