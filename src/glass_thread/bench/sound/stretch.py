"""Stretched notes in the benchmark: damage against the singer holding them so long, and what Strain says."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np
import scipy

from ...core.analysis.analysis import analyse
from ...core.analysis.pitch.f0 import track_f0
from ...core.document.content import Content, Pin, as_found
from ...core.document.strain import LITTLE_BREATH_DB, Asked, damage
from ...core.measure import evaluation as ev
from ...core.plan.plan import build_plan
from ...core.plan.time_map import TimeMap, sample_map
from ...core.signal.types import HOP_S, Analysis, Floats
from ...core.song.keys import make_tuning, one_key
from ...core.synthesis.render import render_whole
from ...demo.score import Performance, SungAir, SungNote
from ...demo.singer import sing
from ...demo.voices import random_performance
from ..finding.analysis import Row, truth_on_grid
from ..finding.strain import RATE
from .movement import SHORTEST_S, left_in_notes, read_by_tracker, takes_of
from .references import reference_stretchers

FACTORS = (0.5, 0.7, 1.4, 2.0)
OWN, UNRENDERED = "glass thread, own tracking", "the note's own middle, not stretched"
_KEPT = 0.7  # of a note that counts as its middle
_VIBRATO_HZ = (3.0, 9.0)
_LONG = 3.0  # times as long, a note's vibrato can be timed
_EDGE_S = 0.05  # of a note, left out at both ends
_TAKES = 5  # of the singer holding a note so long: one alone says little of what two of them differ by


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
    """Every note `factor` times as long and what lies between as it was; what follows moves along."""
    content = as_found(found)
    pins, shift = [], 0.0
    for number, note in enumerate(found.notes):
        pins.append(Pin(f"p{2 * number}", note.start_s, note.start_s + shift))
        shift += (factor - 1.0) * (note.end_s - note.start_s)
        pins.append(Pin(f"p{2 * number + 1}", note.end_s, note.end_s + shift))
    pins.append(Pin("end", found.duration_s, found.duration_s + shift))
    return replace(content, pins={pin.id: pin for pin in pins})


def bench_stretch(voices: list[str], seed: int) -> list[Row]:
    """One row a factor and method: mean mel-cepstral distance of notes from the singer's takes of holding them so long,
    and how many times the distance of two of her takes that is; errors of pitch and of the vibrato's rate by our own
    tracker."""
    rows = []
    for factor in FACTORS:
        found: dict[str, list[tuple[float, float, float]]] = {}
        rates: dict[str, list[float]] = {}
        expected: list[float] = []
        for name in voices:
            performance = random_performance(name, seed, off=(0, 0), duration_s=8.0)
            plain = replace(performance, notes=tuple(replace(n, vibrato_cents=0.0) for n in performance.notes))
            expected += _compared(plain, factor, found)
            _vibrato_rates(performance, factor, rates)
        for method, measured in found.items():
            distance, _takes, cents = np.median(np.array(measured), axis=0)
            rows.append({
                "factor": factor, "method": method, "notes": len(measured), "distance_db": float(distance),
                "times_two_takes": float(np.median([m[0] / m[1] for m in measured])), "pitch_cents": float(cents),
                "vibrato_rate_off": float(np.median(rates[method])) if rates.get(method) else float("nan"),
                "expected_db": float(np.median(expected)) if method == OWN else float("nan"),
            })  # fmt: skip
    return rows


def _stretched(audio: Floats, found: Analysis, factor: float, rate: int = RATE) -> tuple[Floats, TimeMap]:
    plan = build_plan(found, all_held(found, factor), one_key(make_tuning(0, "chromatic")))
    made = sample_map(plan.stretches, rate)
    return render_whole(audio[np.newaxis], rate, plan.contour, plan.correction, time_map=made)[0], made


def _compared(
    performance: Performance, factor: float, found: dict[str, list[tuple[float, float, float]]]
) -> list[float]:
    """Adds (distance, that of two takes, pitch error) of every note to `found` by method; the expected damage."""
    source, wanted = sing(performance, RATE), held_longer(performance, factor)
    ideals = [sing(replace(wanted, seed=wanted.seed + k), RATE).audio for k in range(_TAKES)]
    own, made = _stretched(source.audio, analyse(source.audio, RATE), factor)
    truth = truth_on_grid(source)
    expected = []
    for note, held in zip(performance.notes, wanted.notes, strict=True):
        middle = (held.start_s + held.end_s) / 2 * RATE
        half = int((min(held.end_s - held.start_s, factor * (note.end_s - note.start_s)) / 2 - _EDGE_S) * RATE)
        if half < 2000:
            continue
        right = [x[int(middle) - half : int(middle) + half] for x in ideals]
        takes = float(np.mean([ev.cepstral_distance(a, b, RATE) for a, b in itertools.combinations(right, 2)]))
        first, last = (made.to_target(t * RATE) for t in (note.start_s, note.end_s))
        rendered = {OWN: own[int((first + last) / 2) - half :][: 2 * half]}
        kept = min(half, int(_KEPT * (note.end_s - note.start_s) / 2 * RATE))
        at = int((note.start_s + note.end_s) / 2 * RATE)
        rendered[UNRENDERED] = source.audio[at - kept : at + kept]
        for method, piece in _by_references(source.audio, truth, note, factor).items():
            at = len(piece) // 2 - half
            rendered[method] = piece[max(at, 0) :][: 2 * half]
        for method, sound in rendered.items():
            if len(sound) >= 2000:
                like = [x[(len(x) - len(sound)) // 2 :][: len(sound)] for x in right]
                distance = float(np.mean([ev.cepstral_distance(sound, x, RATE) for x in like]))
                read = track_f0(sound, RATE).midi
                off = 100.0 * abs(float(np.nanmedian(read)) - note.midi) if np.isfinite(read).any() else 1200.0
                found.setdefault(method, []).append((distance, takes, off))
        asked = Asked(0.0, 0.0, 0.0, 0.0, float(np.log2(factor)), note.midi, LITTLE_BREATH_DB)
        expected.append(damage(asked))
    return expected


def _by_references(audio: Floats, truth: Floats, note: SungNote, factor: float) -> dict[str, Floats]:
    a, b = (round(t / HOP_S) for t in (note.start_s, note.end_s))
    piece = audio[round(a * HOP_S * RATE) : round(b * HOP_S * RATE)]
    return {name: stretch(piece, RATE, truth[a:b], factor) for name, stretch in reference_stretchers().items()}


def _vibrato_rates(performance: Performance, factor: float, rates: dict[str, list[float]]) -> None:
    """Adds how far off the rate of each vibrato is, as a share, to `rates` by method."""
    notes = tuple(replace(n, vibrato_cents=60.0, vibrato_hz=5.5) for n in performance.notes)
    sung = held_longer(replace(performance, notes=notes), _LONG)
    source = sing(sung, RATE)
    own, made = _stretched(source.audio, analyse(source.audio, RATE), factor)
    truth = truth_on_grid(source)
    for note in sung.notes:
        first, last = (int(made.to_target(t * RATE)) for t in (note.start_s, note.end_s))
        for method, piece in {OWN: own[first:last], **_by_references(source.audio, truth, note, factor)}.items():
            rate = _rate_of(track_f0(piece, RATE).midi)
            if rate is not None:
                rates.setdefault(method, []).append(abs(rate / 5.5 - 1.0))


def _rate_of(midi: Floats) -> float | None:
    """Hertz of a vibrato in the middle 60 % of a note: the mean rate at which its phase goes on."""
    known = np.flatnonzero(np.isfinite(midi))
    if len(known) < 60:
        return None
    pitch = np.interp(np.arange(known[0], known[-1] + 1), known, midi[known])
    band = scipy.signal.butter(2, _VIBRATO_HZ, "bandpass", fs=1.0 / HOP_S, output="sos")
    wave = scipy.signal.hilbert(scipy.signal.sosfiltfilt(band, pitch - pitch.mean(), padlen=min(60, len(pitch) - 1)))
    middle = slice(round(0.2 * len(pitch)), round(0.8 * len(pitch)))
    phase = np.unwrap(np.angle(wave))[middle]
    return float(np.polyfit(np.arange(len(phase)) * HOP_S, phase, 1)[0] / (2.0 * np.pi))


def bench_stretched_movement(clips: Sequence[Path], seed: int) -> list[Row]:
    """Notes stretched as they were sung, restless or not: how far their pitch in the print, by an independent tracker,
    is off what was sung there, in cents (standard deviation in the middle 60 % of each note); medians and at 90 %."""
    rows = []
    for clip in takes_of(clips, seed):
        sung = read_by_tracker(clip.audio, clip.rate)
        moves = left_in_notes(sung, clip.found.notes)
        for factor in FACTORS:
            sound, made = _stretched(clip.audio, clip.found, factor, clip.rate)
            places = np.array([made.to_target(k * HOP_S * clip.rate) for k in range(len(sung))])
            read = read_by_tracker(sound, clip.rate)
            printed = np.interp(places / clip.rate / HOP_S, np.arange(len(read)), read)
            off = left_in_notes(printed - sung, clip.found.notes)
            regular = np.array([n.vibrato is not None for n in clip.found.notes if n.end_s - n.start_s >= SHORTEST_S])
            rows.append({"take": clip.name, "factor": factor, "notes": int(np.isfinite(off[~regular]).sum()),
                         "sung_ct": float(np.nanmedian(moves[~regular])), "off_ct": float(np.nanmedian(off[~regular])),
                         "off_p90_ct": float(np.nanpercentile(off[~regular], 90))})  # fmt: skip
    return rows
