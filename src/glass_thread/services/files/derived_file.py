"""Doubles and harmonies of a sound file."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ...core.analysis.analysis import analyse_recording
from ...core.document.content import Content, apply_to_content, as_found
from ...core.document.operations.on_derived import MOST_VOICES
from ...core.document.operations.registry import Scene, parse_operation
from ...core.document.operations.rules.voices.derived_edits import sung_by
from ...core.document.voices.left_out import left_out
from ...core.measure.verdicts import STRAINED, judge
from ...core.plan.plan import Plan, build_plan
from ...core.signal.errors import ParameterError
from ...core.signal.types import Analysis
from ...core.signal.validation import in_range
from ...core.song.keys import KeyMap, Temper
from ...core.song.tuning import Tuning
from ..prints.changed import Changed, changed_counts
from ..prints.mix import MixPart, mixed
from ..prints.print_writer import PrintForm, PrintSummary
from ..sound.sound import Renderer, track_length
from ..sound.take import PlanTake
from ..voices.melodies import melody_of_midi
from .sound_files import OpenFile, form_of, opened_file, print_blocks, print_plan, refuse_target
from .tune_file import likely_keys


@dataclass(frozen=True)
class Derived:
    """What came of it: the print, and how many of the notes are strained."""

    summary: PrintSummary
    notes: int
    strained: int


def double_file(
    source: Path, target: Path, *, voices: int = 1, seed: int = 1, lower_db: float = 0.0, as_float: bool = False,
    **settings: Any,
) -> Derived:  # fmt: skip
    """Write the sum of some doubles of `source`, without what they are made of; more than one are lowered together so
    that they are as loud as one."""
    refuse_target(target, source)
    count = int(in_range(voices, 1, MOST_VOICES, "The number of voices"))
    with opened_file(source) as file:
        form = form_of(file, target, lower_db=lower_db, as_float=as_float)
        found = analyse_recording(file.reader)
        keys = likely_keys(found)
        made = [_made(found, keys, {"type": "double", "seed": seed + i, **settings}) for i in range(count)]
        if count == 1:
            summary = print_plan(target, file, made[0][1], form, changed_counts(*made[0]))
        else:
            summary = _printed(target, file, [plan for _content, plan in made], changed_counts(*made[0]), form)
        return Derived(summary, len(found.notes), _strained(found, made[0], keys))


def harmony_file(
    source: Path, target: Path, *, keys: KeyMap | None = None, temper: Temper | None = None,
    midi: Path | None = None, lower_db: float = 0.0, as_float: bool = False, **settings: Any,
) -> Derived:  # fmt: skip
    """Write another voice of `source`: by steps or semitones, or on the melody of a MIDI file."""
    refuse_target(target, source)
    with opened_file(source) as file:
        form = form_of(file, target, lower_db=lower_db, as_float=as_float)
        found = analyse_recording(file.reader)
        chosen = keys or likely_keys(found, temper)
        made = _made(found, chosen, _harmony(midi, chosen.first, settings))
        summary = print_plan(target, file, made[1], form, changed_counts(*made))
        return Derived(summary, len(found.notes), _strained(found, made, chosen))


def _harmony(midi: Path | None, tuning: Tuning, settings: dict[str, Any]) -> dict[str, Any]:
    if midi is None:
        return {"type": "harmony", **settings}
    try:
        with midi.open("rb") as stream:
            melody = melody_of_midi(stream, tuning)
    except OSError as error:
        raise ParameterError(f"{midi.name} cannot be read: {error.strerror or error}.") from error
    return {"type": "harmony", "melody": [list(one) for one in melody], **settings}


def _made(found: Analysis, keys: KeyMap, operation: dict[str, Any]) -> tuple[Content, Plan]:
    content = as_found(found)
    rule = parse_operation(operation)
    change = rule.change(Scene(content, keys, found))
    after = apply_to_content(content, {**change, **left_out(content, sung_by(content, found, rule), found.duration_s)})
    return after, build_plan(found, after, keys)


def _strained(found: Analysis, made: tuple[Content, Plan], keys: KeyMap) -> int:
    verdicts = judge(found, *made, keys).notes
    return sum(one.strain > STRAINED for one in verdicts.values())


def _printed(target: Path, file: OpenFile, plans: Sequence[Plan], changed: Changed, form: PrintForm) -> PrintSummary:
    """The sum of several plans over one file."""
    renderer, source = Renderer(), file.recording
    gain = 1.0 / float(np.sqrt(len(plans)))
    parts = [MixPart(PlanTake(renderer, source, plan), 0, (gain,)) for plan in plans]
    length = max(track_length(source, plan) for plan in plans)
    blocks = mixed(parts, length, source.sample_rate, source.channels)
    return print_blocks(target, file, length, blocks, form, changed)
