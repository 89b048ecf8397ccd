"""Everything that is edited of one track: its notes, its air, and the gaps that were cleared."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

import numpy as np

from ..signal.errors import NotFoundError, ParameterError
from ..signal.types import HOP_S, AirEvent, Analysis, Note
from .items.borrows import Borrow
from .items.comps import Choice
from .items.glazes import Glaze
from .items.level_stretches import LevelStretch
from .items.links import Link
from .notes import EditedNote, Notes
from .places import Places

Item = TypeVar("Item")
OWNED_S, BREATH_OWNED_S = 0.08, 1.0


@dataclass(frozen=True)
class EditedAir:
    """An air event and what is asked of it: a change of level in dB, or silence."""

    event: AirEvent
    level_db: float = 0.0
    muted: bool = False

    @property
    def is_as_sung(self) -> bool:
        """True when nothing about its sound is changed."""
        return self.level_db == 0.0 and not self.muted

    @property
    def span_s(self) -> tuple[float, float]:
        """Start and end in seconds."""
        return self.event.start_s, self.event.end_s


@dataclass(frozen=True)
class Gap:
    """A cleared stretch between phrases; `level_db` 0 or less, or silence."""

    id: str
    start_s: float
    end_s: float
    level_db: float = 0.0
    muted: bool = True

    @property
    def span_s(self) -> tuple[float, float]:
        """Start and end in seconds."""
        return self.start_s, self.end_s


@dataclass(frozen=True)
class Pin:
    """A moment of the recording, `at_s`, that stays at `track_s` of the track whatever is moved around it."""

    id: str
    at_s: float
    track_s: float

    @property
    def span_s(self) -> tuple[float, float]:
        """The moment, twice."""
        return self.at_s, self.at_s


Edited = EditedNote | EditedAir | Gap | Pin | Glaze | Choice | Borrow | Link | LevelStretch
KINDS: tuple[type, ...] = (EditedNote, EditedAir, Gap, Pin, Glaze, Choice, Borrow, Link, LevelStretch)
ContentChange = Mapping[str, tuple[Edited | None, Edited | None]]


@dataclass(frozen=True)
class Content:
    """Notes, air, cleared gaps, pins, glazes, choices of a comp, borrows, links and level stretches, by id.

    Each kind is in order of time.
    """

    notes: Notes
    air: Mapping[str, EditedAir] = field(default_factory=dict)
    gaps: Mapping[str, Gap] = field(default_factory=dict)
    pins: Mapping[str, Pin] = field(default_factory=dict)
    glazes: Mapping[str, Glaze] = field(default_factory=dict)
    choices: Mapping[str, Choice] = field(default_factory=dict)
    borrows: Mapping[str, Borrow] = field(default_factory=dict)
    links: Mapping[str, Link] = field(default_factory=dict)
    level_stretches: Mapping[str, LevelStretch] = field(default_factory=dict)
    _known: dict[type, Places[Any]] = field(default_factory=dict, init=False, repr=False, compare=False)

    @property
    def parts(self) -> tuple[Mapping[str, Any], ...]:
        """Everything, kind after kind."""
        return (
            self.notes, self.air, self.gaps, self.pins, self.glazes, self.choices, self.borrows, self.links,
            self.level_stretches,
        )  # fmt: skip

    def places(self, kind: type) -> Places[Any]:
        """Where the items of a kind lie; worked out once, and taken over from before where none of them changed."""
        if kind not in self._known:
            self._known[kind] = Places(self.parts[KINDS.index(kind)])
        return self._known[kind]


def as_found(analysis: Analysis) -> Content:
    """The content of a track that nobody has edited."""
    notes = {note.id: EditedNote(note) for note in analysis.notes}
    return Content(notes, {event.id: EditedAir(event) for event in analysis.air})


def apply_to_content(content: Content, change: ContentChange, *, backwards: bool = False) -> Content:
    """The content after (or, `backwards`, before) a change; ids are unique across kinds."""
    parts: dict[type, Mapping[str, Any]] = dict(zip(KINDS, content.parts, strict=True))
    own: dict[type, dict[str, Any]] = {}
    moved: set[type] = set()
    for key, (before, after) in change.items():
        state, other = (before, after) if backwards else (after, before)
        kind = type(state if state is not None else other)
        if kind not in own:
            own[kind] = dict(parts[kind])
        items = own[kind]
        was = items.get(key)
        if state is None:
            items.pop(key, None)
            continue
        items[key] = state
        if was is None or was.span_s[0] != state.span_s[0]:
            moved.add(kind)
    for kind in moved:
        own[kind] = dict(sorted(own[kind].items(), key=lambda item: item[1].span_s[0]))
    result = Content(*(own.get(kind, part) for kind, part in parts.items()))
    result._known.update((kind, places) for kind, places in content._known.items() if kind not in own)
    return result


def difference_of(before: Content, after: Content) -> ContentChange:
    """The change that leads from one content to another over the same recording."""
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    for old, new in zip(before.parts, after.parts, strict=True):
        for key, state in new.items():
            was = old.get(key)
            if was is not state and was != state:
                change[key] = (was, state)
        change |= {key: (was, None) for key, was in old.items() if key not in new}
    return change


def selected_air(content: Content, air_ids: Sequence[str]) -> list[EditedAir]:
    """The named events; unknown, doubled or no names are refused."""
    if not air_ids:
        raise ParameterError("No air is selected. Select at least one sibilant, consonant or breath first.")
    missing = [air_id for air_id in air_ids if air_id not in content.air]
    if missing:
        raise NotFoundError(f"There is no air event “{missing[0]}” in this track.")
    if len(set(air_ids)) != len(air_ids):
        raise ParameterError("An air event is named twice in one edit.")
    return [content.air[air_id] for air_id in air_ids]


def air_change(before: Sequence[EditedAir], after: Sequence[EditedAir]) -> ContentChange:
    """The change between two states of the same events, without those that stay."""
    return {b.event.id: (b, a) for b, a in zip(before, after, strict=True) if b != a}


def picked(items: Mapping[str, Item], ids: Sequence[str], *, what: str, where: str) -> list[Item]:
    """The named items, all when none is named; what there is not is said as “There is no `what` … `where`”."""
    missing = [item_id for item_id in ids if item_id not in items]
    if missing:
        raise NotFoundError(f"There is no {what} “{missing[0]}” {where}.")
    if not items:
        raise ParameterError(f"There is no {what} {where}.")
    return [items[item_id] for item_id in dict.fromkeys(ids or items)]


def fresh_id(content: Content, letter: str) -> str:
    """An id that nothing in the content has."""
    return fresh_ids(content, letter, 1)[0]


def fresh_ids(content: Content, letter: str, how_many: int) -> list[str]:
    """Ids that nothing in the content has."""
    known = [key for part in content.parts for key in part if key.startswith(letter)]
    last = max((int(key[1:]) for key in known if key[1:].isdigit()), default=0)
    return [f"{letter}{last + i:04d}" for i in range(1, how_many + 1)]


def named(item: Item, name: str) -> Item:
    """An item under another name."""
    if isinstance(item, EditedNote):
        return replace(item, note=replace(item.note, id=name))
    if isinstance(item, EditedAir):
        return replace(item, event=replace(item.event, id=name))
    return replace(item, id=name)  # type: ignore[type-var]


def owner_of(event: AirEvent, notes: Sequence[Note]) -> str | None:
    """The note that an event belongs to: the one it begins, else the one it ends; None when it stands alone.

    A consonant between two notes begins the second, as syllables do (maximal onset principle, from memory); a breath
    belongs to the note it is taken for.
    """
    reach = BREATH_OWNED_S if event.kind == "breath" else OWNED_S
    within = [n for n in notes if n.start_s < event.start_s + HOP_S and event.end_s < n.end_s + HOP_S]
    if within:
        return within[0].id
    after = [n for n in notes if event.start_s - HOP_S <= n.start_s <= event.end_s + reach]
    if after:
        return min(after, key=lambda n: n.start_s).id
    before = [n for n in notes if event.start_s - OWNED_S <= n.end_s <= event.end_s]
    return max(before, key=lambda n: n.end_s).id if before else None


def air_owners(content: Content) -> dict[str, str | None]:
    """Owner of every event by id."""
    notes = sorted((edited.note for edited in content.notes.values()), key=lambda note: note.start_s)
    starts, ends = (np.array([getattr(note, side) for note in notes]) for side in ("start_s", "end_s"))
    reach = max(BREATH_OWNED_S, OWNED_S) + 2 * HOP_S
    owners = {}
    for air_id, edited in content.air.items():
        first = np.searchsorted(ends, edited.event.start_s - reach)
        last = np.searchsorted(starts, edited.event.end_s + reach, side="right")
        owners[air_id] = owner_of(edited.event, notes[first:last])
    return owners


def event_frames(event: AirEvent | Gap, n_frames: int) -> tuple[int, int]:
    """Half-open frame range of an event on the analysis grid."""
    return max(0, round(event.start_s / HOP_S)), min(n_frames, round(event.end_s / HOP_S))


def frames_of(edited: Edited, n_frames: int) -> tuple[int, int]:
    """Half-open frame range of a note, an event or a gap on the analysis grid."""
    start, end = edited.span_s
    return max(0, round(start / HOP_S)), min(n_frames, round(end / HOP_S))
