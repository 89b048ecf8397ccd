"""Stretched notes in the benchmark: damage against the singer holding them so long, and what Strain says."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..core.analysis.analysis import analyse
from ..core.document.content import Content, Pin, as_found
from ..core.document.scales import make_key
from ..core.document.strain import LITTLE_BREATH_DB, Asked, damage
from ..core.measure import evaluation as ev
from ..core.plan.plan import build_plan
from ..core.plan.time_map import sample_map
from ..core.signal.types import Analysis
from ..core.synthesis.render import render_whole
from ..demo.score import Performance, SungAir, SungNote
from ..demo.singer import sing
from ..demo.voices import random_performance
from .bench_analysis import Row
from .bench_strain import RATE

FACTORS = (0.5, 0.7, 1.4, 2.0)
_EDGE_S = 0.05  # of a note, left out at both ends


def held_longer(performance: Performance, factor: float) -> Performance:
    """The same performance with every note `factor` times as long and its air as it was."""
    notes: list[SungNote] = []
    air: list[SungAir] = []
    shift = 0.0
    for sound in sorted((*performance.notes, *performance.air), key=lambda each: each.start_s):
        start, length = sound.start_s + shift, sound.end_s - sound.start_s
        if isinstance(sound, SungNote):
            notes.append(replace(sound, start_s=start, end_s=start + factor * length))
            shift += (factor - 1.0) * length
        else:
            air.append(replace(sound, start_s=start, end_s=start + length))
    return replace(
        performance, duration_s=performance.duration_s + max(shift, 0.0) + 0.5, notes=tuple(notes), air=tuple(air)
    )


def all_held(found: Analysis, factor: float) -> Content:
    """Every note `factor` times as long and what lies between as it was; what cannot be held so long is left out."""
    content = as_found(found)
    pins, shift = [], 0.0
    for number, note in enumerate(found.notes):
        pins.append(Pin(f"p{2 * number}", note.start_s, note.start_s + shift))
        shift += (factor - 1.0) * (note.end_s - note.start_s)
        pins.append(Pin(f"p{2 * number + 1}", note.end_s, note.end_s + shift))
    pins.append(Pin("end", found.duration_s, found.duration_s + shift))
    return replace(content, pins={pin.id: pin for pin in pins})


def bench_stretch(voices: list[str], seed: int) -> list[Row]:
    """One row a factor: median damage of notes in dB, what two takes of one singer differ by, and what is expected."""
    rows = []
    for factor in FACTORS:
        measured, floor, expected = [], [], []
        for name in voices:
            performance = random_performance(name, seed, off=(0, 0), duration_s=8.0)
            plain = replace(performance, notes=tuple(replace(n, vibrato_cents=0.0) for n in performance.notes))
            for made, takes, told in _notes(plain, factor):
                measured.append(made)
                floor.append(takes)
                expected.append(told)
        over = float(np.median(np.array(measured) - np.array(floor)))
        rows.append({"factor": factor, "notes": len(measured), "damage_db": float(np.median(measured)),
                     "another_take_db": float(np.median(floor)), "over_it_db": over,
                     "expected_db": float(np.median(expected))})  # fmt: skip
    return rows


def _notes(performance: Performance, factor: float) -> list[tuple[float, float, float]]:
    """For each note its damage, the distance of another take, and the damage Strain expects, in dB."""
    source, wanted = sing(performance, RATE), held_longer(performance, factor)
    ideal, other = (sing(replace(wanted, seed=wanted.seed + k), RATE).audio for k in (0, 1))
    found = analyse(source.audio, RATE)
    plan = build_plan(found, all_held(found, factor), make_key(0, "chromatic"))
    made = sample_map(plan.stretches, RATE)
    out = render_whole(source.audio[np.newaxis], RATE, plan.contour, plan.correction, time_map=made)[0]
    rows = []
    for note, held in zip(performance.notes, wanted.notes, strict=True):
        first, last = (made.to_target(t * RATE) for t in (note.start_s + _EDGE_S, note.end_s - _EDGE_S))
        half = int(min(last - first, (held.end_s - held.start_s - 2 * _EDGE_S) * RATE) / 2)
        if half < 2000:
            continue
        there, here = int((first + last) / 2), int((held.start_s + held.end_s) / 2 * RATE)
        rendered, right = out[there - half : there + half], ideal[here - half : here + half]
        another = other[here - half : here + half]
        asked = Asked(0.0, 0.0, 0.0, 0.0, float(np.log2(factor)), note.midi, LITTLE_BREATH_DB)
        rows.append(
            (ev.cepstral_distance(rendered, right, RATE), ev.cepstral_distance(another, right, RATE), damage(asked))
        )
    return rows
