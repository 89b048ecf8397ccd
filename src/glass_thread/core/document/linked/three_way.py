"""The three-way merge of what is linked: what is still as it was given becomes as it is given now, what a hand changed
stays.  A note is merged by its facets, anything else whole."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace
from typing import Any

from ..content import Content, ContentChange, Edited
from ..gestures import AS_SUNG, Gesture
from ..items.links import mark_of
from ..notes import EditedNote

# What a hand changes one by one of a note: when, how high and how loud it is; the rest is everything else.
_VALUES = {"time": ("start_shift_ms", "end_shift_ms"), "pitch": ("target_midi", "pull", "hand"), "level": ("level_db",)}
_NAMES = [name for names in _VALUES.values() for name in names]
FACETS = (*_VALUES, "rest")
_DIGITS = 8  # of the mark of a facet
_NOT_MARKED = "-" * _DIGITS


def base_of(state: Edited) -> str:
    """The mark of something as it is given, to be kept with the link: of a note one for each facet."""
    if not isinstance(state, EditedNote):
        return mark_of(state)
    rest = (state.note, replace(state.gesture, **_values_of(AS_SUNG, _NAMES)), state.leave_as_sung)
    return ".".join((*_marks(state.gesture), mark_of(rest)[:_DIGITS]))


def base_of_gesture(gesture: Gesture) -> str:
    """The mark of a note of which a gesture is given, and nothing is said of the rest."""
    return ".".join((*_marks(gesture), _NOT_MARKED))


def _marks(gesture: Gesture) -> list[str]:
    return [mark_of(tuple(getattr(gesture, name) for name in names))[:_DIGITS] for names in _VALUES.values()]


def bases_of(content: Content) -> dict[str, str]:
    """The marks of everything in a content, by id."""
    return {key: base_of(state) for part in content.parts for key, state in part.items()}


def still_given(base: str | None, state: Edited | None) -> Collection[str]:
    """The facets of something that are as they were given last; all or none of what is no note."""
    if base is None or state is None:
        return FACETS if base is None and state is None else ()
    if "." not in base:  # whole: no note, or of a release that marked notes so
        return FACETS if mark_of(state) == base else ()
    pairs = zip(FACETS, base.split("."), base_of(state).split("."), strict=True)
    return [facet for facet, then, now in pairs if then == now]


def renewed_base(base: str, given: Collection[str], gesture: Gesture) -> str:
    """The mark of a note of which some facets are given anew; the others keep theirs."""
    now = zip(FACETS, base.split("."), base_of_gesture(gesture).split("."), strict=True)
    return ".".join(new if facet in given else old for facet, old, new in now)


def caught_up(mine: Content, base: Mapping[str, str], now: Content) -> ContentChange:
    """What is still as it was given, made as it is given now.

    Parameters
    ----------
    base
        The mark of everything that was given last, by id (`base_of`).

    Returns
    -------
    ContentChange
        Without what a hand changed, took away or added since.
    """
    there = {key: state for part in mine.parts for key, state in part.items()}
    wanted = {key: state for part in now.parts for key, state in part.items()}
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    for key in dict.fromkeys((*there, *wanted)):
        old, new = there.get(key), wanted.get(key)
        merged = _merged(old, new, still_given(base.get(key), old)) if old != new else old
        if merged != old:
            change[key] = (old, merged)
    return change


def _merged(old: Edited | None, new: Edited | None, given: Collection[str]) -> Edited | None:
    """Something with the facets that are still as given as they are given now."""
    if len(given) == len(FACETS):
        return new
    if not (isinstance(old, EditedNote) and isinstance(new, EditedNote)):
        return old
    given_names = [name for facet in given for name in _VALUES.get(facet, ())]
    if "rest" not in given:
        return replace(old, gesture=replace(old.gesture, **_values_of(new.gesture, given_names)))
    kept = _values_of(old.gesture, [name for name in _NAMES if name not in given_names])
    return replace(old, note=new.note, gesture=replace(new.gesture, **kept), leave_as_sung=new.leave_as_sung)


def _values_of(gesture: Gesture, names: Iterable[str]) -> dict[str, Any]:
    return {name: getattr(gesture, name) for name in names}
