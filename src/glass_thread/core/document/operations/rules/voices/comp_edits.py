"""Edit operations on comps."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import TypeVar, get_args

from .....signal.errors import NotFoundError, ParameterError
from .....signal.types import AirKind
from ....content import Content, ContentChange, EditedAir, difference_of, fresh_ids
from ....items.comps import SHORTEST_CHOICE_S, Chosen, chosen_at, in_order, spans_of, with_spans
from ....notes import EditedNote
from ....rows import Row

AIR_KINDS: tuple[str, ...] = get_args(AirKind)
Rows = Mapping[str, Row]
Item = TypeVar("Item", EditedNote, EditedAir)
_END = float("inf")


def choose(
    content: Content, rows: Rows, *, version_id: str, start_s: float = 0.0, end_s: float | None = None
) -> ContentChange:
    """Let a version sound over a stretch."""
    last = _END if end_s is None else end_s
    if last - start_s < SHORTEST_CHOICE_S:
        raise ParameterError("Choose a stretch of at least 20 ms.")
    return _with(content, [(start_s, last, _chosen(rows, version_id))])


def choose_air(
    content: Content, rows: Rows, *, version_id: str, kinds: Sequence[str], start_s: float = 0.0,
    end_s: float | None = None,
) -> ContentChange:  # fmt: skip
    """Take air of some kinds from a version, each event where what sounds now has it."""
    chosen = _chosen(rows, version_id)
    wanted = [
        (*span, chosen)
        for span, row, edited in _sounding(content, rows, lambda row: row.content.air, start_s, end_s)
        if edited.event.kind in kinds and row.version_id != version_id
    ]
    if not wanted:
        raise ParameterError(f"There is no air here that is not from “{row_of(rows, version_id).name}” already.")
    return _with(content, [span for span in wanted if span[1] - span[0] >= SHORTEST_CHOICE_S])


def choose_least_strain(
    content: Content, rows: Rows, *, version_ids: Sequence[str], above: float, flagged: bool = False,
    start_s: float = 0.0, end_s: float | None = None,
) -> ContentChange:  # fmt: skip
    """Take notes above a strain, or flagged ones, from the version in which they have least."""
    if not version_ids:
        raise ParameterError("Name at least one version to take notes from.")
    others = {version_id: row_of(rows, version_id) for version_id in version_ids}
    wanted = []
    for span, row, edited in _sounding(content, rows, lambda row: row.content.notes, start_s, end_s):
        strain = row.strain.get(edited.note.id, 0.0)
        if not (strain > above or (flagged and edited.note.id in row.flagged)):
            continue
        strains = {one: other.strain_over(edited.span_s) for one, other in others.items()}
        best = min(strains, key=lambda one: strains[one])
        if best != row.version_id and strains[best] < strain + (1.0 if flagged else 0.0):
            wanted.append((*span, _chosen(rows, best)))
    if not wanted:
        raise ParameterError("No note here has less strain in these versions.")
    return _with(content, wanted)


def move_border(content: Content, rows: Rows, *, choice_id: str, to_s: float) -> ContentChange:
    """Move where a choice starts, between its neighbours."""
    del rows
    ordered = in_order(content.choices)
    place = next((i for i, choice in enumerate(ordered) if choice.id == choice_id), None)
    if place is None:
        raise NotFoundError(f"There is no border “{choice_id}” in this comp.")
    if place == 0:
        raise ParameterError("The first choice starts where the track does.")
    low = ordered[place - 1].start_s + SHORTEST_CHOICE_S
    high = ordered[place + 1].start_s - SHORTEST_CHOICE_S if place + 1 < len(ordered) else _END
    if not low <= to_s <= high:
        until = f" to {high:.2f} s" if high < _END else " on"
        raise ParameterError(f"This border can go from {low:.2f} s{until}; its neighbours are there.")
    was = ordered[place]
    return {was.id: (was, replace(was, start_s=to_s))} if was.start_s != to_s else {}


def _sounding(
    content: Content, rows: Rows, items: Callable[[Row], Mapping[str, Item]], start_s: float, end_s: float | None
) -> Iterator[tuple[tuple[float, float], Row, Item]]:
    """Notes or events that sound in a stretch: their part of the track there, the version they are from, and each."""
    last = _END if end_s is None else end_s
    for begin, end, choice in spans_of(content.choices):
        row = row_of(rows, choice.version_id)
        for item in items(row).values():
            a, b = (float(at) for at in row.times.source_to_track(item.span_s))
            if max(begin, start_s) <= (a + b) / 2 < min(end, last):
                yield (max(a, begin), min(b, end)), row, item


def row_of(rows: Rows, version_id: str) -> Row:
    """A version that a comp may choose; NotFoundError when there is none."""
    if version_id not in rows:
        raise NotFoundError("There is no such version of this track.")
    return rows[version_id]


def _chosen(rows: Rows, version_id: str) -> Chosen:
    return version_id, row_of(rows, version_id).step_id


def _with(content: Content, wanted: Sequence[tuple[float, float, Chosen]]) -> ContentChange:
    """The change to choices after stretches were chosen anew; what was never chosen before sounds from the first on."""
    if chosen_at(content.choices, 0.0) is None and wanted:
        wanted = [(0.0, wanted[0][1], wanted[0][2]), *wanted[1:]]
    names = fresh_ids(content, "c", 2 * len(wanted) + 1)
    after = with_spans(content.choices, wanted, names)
    return difference_of(content, replace(content, choices={choice.id: choice for choice in after}))
