"""Tune a file outside the data folder, for the command line."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from ...core.analysis.analysis import analyse_recording
from ...core.document.content import Content, Pin, as_found
from ...core.document.operations.registry import parse_operation
from ...core.document.time.give_way import NOTHING, give_way, squeezed
from ...core.plan.pitch.curve import curve_correction
from ...core.plan.plan import Plan, build_plan, untouched_plan
from ...core.signal.errors import ParameterError
from ...core.signal.types import HOP_S, Analysis, Floats
from ...core.song.keys import KeyMap, Temper, make_tuning, one_key
from ...formats.curve_csv import read_curve, read_time_map
from ...formats.edit_document import read_edits
from ..history.edit import changed_content
from ..prints.changed import Changed, changed_counts
from ..prints.print_writer import PrintSummary
from ..sound.recordings import CachedRecording
from .sound_files import form_of, opened_file, print_plan, refuse_target

_OF_PASS = ("pull", "drift", "vibrato", "movement", "within_cents", "rounding")


@dataclass(frozen=True)
class Wanted:
    """What a file is tuned by: a tune pass, or a curve, or an edit document; and a time map and a glaze on top."""

    pull: float = 1.0
    drift: float = 1.0
    vibrato: float = 1.0
    movement: float = 1.0
    within_cents: float = 0.0
    rounding: str = "scale"
    curve: Path | None = None
    edits: Path | None = None
    time: Path | None = None
    settle_ms: float | None = None
    tolerance_cents: float | None = None


def likely_keys(analysis: Analysis, temper: Temper | None = None) -> KeyMap:
    """The best key estimate, at A4 = 440 Hz where nothing else is said; chromatic when there is none, or when a tuning
    of other steps than twelve has no such scale."""
    twelve = (temper or Temper()).steps_on(0).twelve
    if not analysis.keys or not twelve:
        return one_key(make_tuning(0, "chromatic", temper=temper))
    return one_key(make_tuning(analysis.keys[0].tonic, analysis.keys[0].scale, temper=temper))


def edited_content(
    source: CachedRecording, analysis: Analysis, keys: KeyMap, operations: list[dict[str, Any]]
) -> Content:
    """The content after all operations; ``"note_ids": "all"`` and ``"air_ids": "all"`` name every note and event."""
    content = as_found(analysis)
    for data in operations:
        everything = {"note_ids": list(content.notes), "air_ids": list(content.air)}
        named = {name: ids for name, ids in everything.items() if data.get(name) == "all"}
        _, content = changed_content(content, keys, analysis, parse_operation({**data, **named}), lambda: source)
    return content


def tune_file(
    source: Path, target: Path, wanted: Wanted | None = None, *, keys: KeyMap | None = None,
    temper: Temper | None = None, lower_db: float = 0.0, as_float: bool = False,
) -> PrintSummary:  # fmt: skip
    """Analyse `source`, tune it as `wanted`, and write `target` (.wav or .flac).

    Notes round to `keys`, or to the key that is found, in a tuning of `temper`.  The target appears whole or not at
    all.  `lower_db` lowers the whole print, `as_float` keeps 32-bit float; one of them is needed when the peak lies
    over full scale.
    """
    chosen = wanted or Wanted()
    refuse_target(target, source)
    operations = read_edits(chosen.edits) if chosen.edits is not None else None
    with opened_file(source) as file:
        if chosen.curve is not None and (chosen.time is not None or _glaze(chosen)):
            raise ParameterError("A curve takes no time map and no glaze; make one file after the other.")
        form = form_of(file, target, lower_db=lower_db, as_float=as_float)
        analysis = analyse_recording(file.reader)
        plan, changed = _planned(file.recording, analysis, keys or likely_keys(analysis, temper), chosen, operations)
        return print_plan(target, file, plan, form, changed)


def _planned(
    source: CachedRecording, analysis: Analysis, keys: KeyMap, wanted: Wanted, operations: list[dict[str, Any]] | None
) -> tuple[Plan, Changed]:
    """The plan of what is wanted, and how many notes and air events it changes."""
    if wanted.curve is not None:
        target = read_curve(wanted.curve, analysis.contour)
        correction = curve_correction(analysis.contour, analysis.notes, target)
        return replace(untouched_plan(analysis), correction=correction), Changed(_notes_under(analysis, correction))
    if operations is None:
        settings = {name: getattr(wanted, name) for name in _OF_PASS}
        operations = [{"type": "tune_pass", "note_ids": "all", **settings}] if analysis.notes else []
    content = edited_content(source, analysis, keys, [*operations, *_glaze(wanted)])
    if wanted.time is not None:
        content = replace(content, pins=_pins(read_time_map(wanted.time, analysis.duration_s), analysis.duration_s))
    trouble = squeezed(NOTHING, give_way(analysis, content))
    if trouble:
        raise ParameterError(trouble)
    plan = build_plan(analysis, content, keys)
    return plan, changed_counts(content, plan)


def _glaze(wanted: Wanted) -> list[dict[str, Any]]:
    """The edit that lays a glaze over everything, when one is wanted."""
    given = {"settle_ms": wanted.settle_ms, "tolerance_cents": wanted.tolerance_cents}
    values = {name: value for name, value in given.items() if value is not None}
    return [{"type": "glaze", "values": {**values, "rounding": wanted.rounding}}] if values else []


def _pins(anchors: list[tuple[float, float]], duration_s: float) -> dict[str, Pin]:
    """A time map as pins; what follows its last anchor moves along."""
    at_s, track_s = anchors[-1]
    anchors = [*anchors, (duration_s, duration_s + track_s - at_s)] if at_s < duration_s else anchors
    pins = (Pin(f"p{i:04d}", *anchor) for i, anchor in enumerate(anchors, 1))
    return {pin.id: pin for pin in pins}


def _notes_under(analysis: Analysis, correction: Floats) -> int:
    spans = [(int(n.start_s / HOP_S), int(n.end_s / HOP_S)) for n in analysis.notes]
    return sum(bool(correction[a:b].any()) for a, b in spans)
