"""An edit that was made on an older step, laid on top of what was done since when the two have nothing to do with each
other."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import fields

from ...core.document.content import ContentChange, difference_of
from ...core.document.operations.registry import Operation, describe
from ...core.signal.errors import StaleEditError
from ...store.history import refuse_change
from ...store.records import Version
from ..session.desk import Desk, Standing

MOST_SEARCHED = 100  # steps back for the name of the one that is in the way

Apply = Callable[[Standing], ContentChange]


def standing_to_edit(desk: Desk, version: Version, base: Standing, asked: Operation, apply: Apply) -> Standing:
    """The standing that an operation made on `base` is applied to: the head of the version.

    That is another one than `base` when something else was done meanwhile which touches nothing that the operation
    names or changes, and after which it would do the very same.

    Raises
    ------
    StaleEditError
        Naming both sides, when they touch the same.
    """
    refuse_change(version, version.head_id)  # As sung, and what was removed
    if version.head_id == base.step_id:
        return base
    now = desk.at(version.track_id, version.head_id)
    since = difference_of(base.content, now.content)
    wanted = apply(base)
    met = {*_known(wanted), *_named(asked)} & since.keys()
    if met or _known(wanted) != _known(apply(now)):
        other, mine = _label_of(desk, version, base, met), describe(asked, wanted) if wanted else asked.label
        raise StaleEditError(
            f"“{other}” was done elsewhere meanwhile, to what “{mine}” is about. Nothing was changed; the newer "
            "state is shown now.",
            current=version.head_id,
        )
    return now


def _known(change: ContentChange) -> ContentChange:
    """What a change does to things that were there before; new ones meet nothing."""
    return {key: pair for key, pair in change.items() if pair[0] is not None}


def _named(asked: Operation) -> Iterable[str]:
    """The notes, air events and others that an operation names."""
    for field in fields(asked):
        value = getattr(asked, field.name)
        if field.name.endswith("_id") and isinstance(value, str):
            yield value
        elif field.name.endswith("_ids"):
            yield from value


def _label_of(desk: Desk, version: Version, base: Standing, met: set[str]) -> str:
    """What was done to things since a step; what was done last when that cannot be told."""
    history = desk.workspace.history
    path = history.path(version.head_id, most=MOST_SEARCHED)
    for entry in path:
        if entry.id == base.step_id:
            break
        if met & history.step(entry.id).change.keys():
            return entry.label
    return path[0].label
