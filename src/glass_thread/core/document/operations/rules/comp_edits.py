"""Edit operations on comps."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import get_args

from ....signal.errors import NotFoundError, ParameterError
from ....signal.types import AirKind
from ...comps import SHORTEST_CHOICE_S, Choice, Chosen, chosen_at, in_order, spans_of, with_spans
from ...content import Content, ContentChange, Edited, difference_of, fresh_ids
from ...rows import Row

AIR_KINDS: tuple[str, ...] = get_args(AirKind)
Rows = Mapping[str, Row]
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
    last = _END if end_s is None else end_s
    wanted = []
    for begin, end, choice in spans_of(content.choices):
        row = _row(rows, choice.version_id)
        for edited in row.content.air.values():
            a, b = (float(at) for at in row.times.source_to_track(edited.span_s))
            inside = begin <= (a + b) / 2 < end and start_s <= (a + b) / 2 < last
            if inside and edited.event.kind in kinds and choice.version_id != version_id:
                wanted.append((max(a, begin), min(b, end), chosen))
    if not wanted:
        raise ParameterError(f"There is no air here that is not from “{_row(rows, version_id).name}” already.")
    return _with(content, [span for span in wanted if span[1] - span[0] >= SHORTEST_CHOICE_S])


def choose_least_strain(
    content: Content, rows: Rows, *, version_ids: Sequence[str], above: float, flagged: bool = False,
    start_s: float = 0.0, end_s: float | None = None,
) -> ContentChange:  # fmt: skip
    """Take notes above a strain, or flagged ones, from the version in which they have least."""
    if not version_ids:
        raise ParameterError("Name at least one version to take notes from.")
    others = {version_id: _row(rows, version_id) for version_id in version_ids}
    last = _END if end_s is None else end_s
    wanted = []
    for begin, end, choice in spans_of(content.choices):
        row = _row(rows, choice.version_id)
        for edited in row.content.notes.values():
            a, b = (float(at) for at in row.times.source_to_track(edited.span_s))
            note_id = edited.note.id
            hurts = row.strain.get(note_id, 0.0) > above or (flagged and note_id in row.flagged)
            if not hurts or not (begin <= (a + b) / 2 < end and start_s <= (a + b) / 2 < last):
                continue
            strains = {one: other.strain_over(edited.span_s) for one, other in others.items()}
            best = min(strains, key=lambda one: strains[one])
            if best != choice.version_id and strains[best] < row.strain.get(note_id, 0.0) + (1.0 if flagged else 0.0):
                wanted.append((max(a, begin), min(b, end), _chosen(rows, best)))
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
    return {was.id: (was, Choice(was.id, to_s, was.version_id, was.step_id))} if was.start_s != to_s else {}


def catch_up(content: Content, rows: Rows, *, version_ids: Sequence[str] = ()) -> ContentChange:
    """Choose versions as they stand now."""
    for version_id in version_ids:
        _row(rows, version_id)
    change: dict[str, tuple[Edited | None, Edited | None]] = {}
    for choice in content.choices.values():
        row = rows.get(choice.version_id)
        if row and (not version_ids or row.version_id in version_ids) and row.step_id != choice.step_id:
            change[choice.id] = (choice, Choice(choice.id, choice.start_s, choice.version_id, row.step_id))
    return change


def _row(rows: Rows, version_id: str) -> Row:
    if version_id not in rows:
        raise NotFoundError("There is no such version of this track.")
    return rows[version_id]


def _chosen(rows: Rows, version_id: str) -> Chosen:
    return version_id, _row(rows, version_id).step_id


def _with(content: Content, wanted: Sequence[tuple[float, float, Chosen]]) -> ContentChange:
    """The change to choices after stretches were chosen anew; what was never chosen before sounds from the first on."""
    if chosen_at(content.choices, 0.0) is None and wanted:
        wanted = [(0.0, wanted[0][1], wanted[0][2]), *wanted[1:]]
    names = fresh_ids(content, "c", 2 * len(wanted) + 1)
    after = with_spans(content.choices, wanted, names)
    return difference_of(content, content.with_choices({choice.id: choice for choice in after}))
