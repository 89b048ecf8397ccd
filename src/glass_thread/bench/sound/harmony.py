"""What the benchmark measures of harmonies: their distance to the singer's own take on the same other notes."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np

from ...core.analysis.analysis import analyse
from ...core.document.content import apply_to_content, as_found
from ...core.document.operations.on_derived import MakeDouble
from ...core.document.operations.registry import Scene, parse_operation
from ...core.measure.evaluation import comb_of
from ...core.plan.plan import build_plan
from ...core.signal.types import Analysis, Floats
from ...core.signal.units import db_to_gain
from ...core.song.keys import make_tuning, one_key
from ...core.synthesis.render import render_whole
from ...demo.singer import Sung, sing
from ...demo.song import lead
from ...demo.voices import VOICES, random_performance
from ...services.linked.deriving import level_of
from ..finding.analysis import Row, truth_on_grid
from .references import reference_renderers
from .rendering import RATE, take_scores

INTERVALS = (-7, -4, -3, 3, 4, 7, 12)
LOWEST, HIGHEST = 36, 88  # that the singers of the benchmark can sing
SHOWN = ("cepstral_db", "spectral_db", "f0_median_from_ideal", "f0_p95_from_ideal", "noise_ratio_from_ideal_db")


def bench_harmony(voices: list[str], seed: int) -> list[Row]:
    """One row an interval and method: medians over the voices that can sing both; lead in tune, harmony unhumanised."""
    methods: dict[str, Any] = {"glass thread, own tracking": None, **reference_renderers()}
    rows = []
    for interval in INTERVALS:
        able = [
            name for name in voices if LOWEST <= VOICES[name][0] + interval <= VOICES[name][1] + interval <= HIGHEST
        ]
        found: dict[str, list[Row]] = {method: [] for method in methods}
        for name in able:
            sung = random_performance(name, seed, off=(0, 0))
            own = replace(sung, notes=tuple(replace(note, midi=note.midi + interval) for note in sung.notes))
            source, ideal = sing(sung, RATE), sing(own, RATE)
            for method, correct in methods.items():
                made = _harmony(source, interval) if correct is None else correct(
                    source.audio, RATE, truth_on_grid(source), truth_on_grid(ideal))  # fmt: skip
                found[method].append(take_scores(own, source, ideal, made, all_notes=True))
        for method, scored in found.items():
            middle = {key: float(np.nanmedian([row[key] for row in scored])) for key in SHOWN}
            rows.append({"semitones": interval, "voices": len(able), "method": method, **middle})
    return rows


def _harmony(source: Sung, semitones: int) -> Floats:
    """The notes of a take by an interval from where they were sung, as the operation has it."""
    asked = {"type": "harmony", "semitones": float(semitones), "human": 0.0, "lean": 0.0, "air": "kept"}
    return _rendered(source.audio, analyse(source.audio, RATE), asked)


def _rendered(audio: Floats, found: Analysis, asked: dict[str, Any]) -> Floats:
    content, keys = as_found(found), one_key(make_tuning(0, "chromatic"))
    change = parse_operation(asked).change(Scene(content, keys, found))
    plan = build_plan(found, apply_to_content(content, change), keys)
    render = partial(render_whole, formant=plan.formant, time_map=plan.moves(RATE))
    return render(audio[np.newaxis], RATE, plan.contour, plan.correction)[0][: len(audio)]


def bench_doubles(seeds: int = 5) -> list[Row]:
    """The mono sum of a lead and its doubles, by how many: the deepest notch and the strongest steady spacing, medians
    and worst over seeds, all as loud as the lead and as loud as doubles are placed; beside it second takes of the same
    singer, who wanders as far, and a late copy."""
    line = sing(lead(), RATE).audio
    found = analyse(line, RATE)
    late = np.concatenate([np.zeros(round(0.016 * RATE)), line])
    ours = [[_double(line, found, seed=100 * one + voice) for voice in range(4)] for one in range(seeds)]
    takes = [[_second_take(100 * one + voice) for voice in range(4)] for one in range(seeds)]
    rows = []
    for voices in (1, 2, 3, 4):
        gain = float(db_to_gain(level_of(MakeDouble(), voices)))
        for method, stacks in (("glass thread", ours), ("the singer's own takes", takes), ("16 ms late", [[late] * 4])):
            combs = [comb_of([line, *stack[:voices]], RATE) for stack in stacks]
            deepest, steady = np.array(combs).T
            placed = [comb_of([line, *(gain * one for one in stack[:voices])], RATE)[0] for stack in stacks]
            rows.append({"voices": voices, "method": method, "notch dB": float(np.median(deepest)),
                         "worst dB": float(deepest.min()), "worst as placed dB": min(placed),
                         "steady": float(np.median(steady))})  # fmt: skip
    return rows


def _double(line: Floats, found: Analysis, *, seed: int) -> Floats:
    return _rendered(line, found, {"type": "double", "seed": seed})


def _second_take(seed: int) -> Floats:
    """The lead sung again: other notes of the same singer, off by as much as a double wanders."""
    rng, sung = np.random.default_rng(seed), lead()
    notes = tuple(replace(note, off=note.off + float(rng.normal(0.0, 9.0))) for note in sung.notes)
    return sing(replace(sung, notes=notes, seed=seed), RATE).audio
