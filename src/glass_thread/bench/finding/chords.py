"""How right chords are, on the demo's backing and on backings made with other sounds; mir_eval is the judge."""

from __future__ import annotations

import importlib
from typing import Any

import numpy as np

from ...core.signal.recording import held
from ...core.signal.types import Floats
from ...core.song.beats import Meter
from ...core.song.chroma import HARMONY_HOP_S, harmony
from ...core.song.harmony.chord_names import QUALITIES, Chord
from ...core.song.harmony.hearing import hear_chords
from ...demo import backing as demo_backing
from ...demo.song import BEAT_S, BEATS_PER_BAR
from .chord_backings import RATE, STYLES, chord_backing

Spans = list[tuple[float, float, str]]
_DEMO = ("D:min", "Bb:maj", "F:maj", "C:maj")
_DEMO_RATE = 44_100


def bench_chords(seed: int) -> list[dict[str, Any]]:
    """Shares of the time that are right: major and minor, with sevenths, and by a plain template matcher."""
    rows = [_row("the demo's backing", demo_backing.play(_DEMO_RATE), _DEMO_RATE, 60.0 / BEAT_S, demo_chords())]
    rows += [_row(made.name, made.audio[None, :], RATE, made.tempo, list(made.chords))
             for made in (chord_backing(name, seed) for name in STYLES)]  # fmt: skip
    measured = [name for name in rows[0] if name != "backing"]
    mean = {name: round(float(np.mean([row[name] for row in rows[1:]])), 3) for name in measured}
    return [*rows, {"backing": "mean of the six", **mean}]


def demo_chords() -> Spans:
    """The chords that the demo's backing plays."""
    bar_s = BEATS_PER_BAR * BEAT_S
    return [(bar * bar_s, (bar + 1) * bar_s, _DEMO[bar % 4]) for bar in range(20)]


def _row(name: str, audio: Floats, rate: int, tempo: float, wanted: Spans) -> dict[str, Any]:
    found = [(one.start_s, one.end_s, one.chord.label)
             for one in hear_chords(held(audio, rate), (Meter(0.0, tempo),))]  # fmt: skip
    plain = plain_chords(audio, rate, tempo)
    return {"backing": name, "major and minor": round(shares(wanted, found)[0], 3),
            "with sevenths": round(shares(wanted, found)[1], 3),
            "plain, major and minor": round(shares(wanted, plain)[0], 3),
            "plain, with sevenths": round(shares(wanted, plain)[1], 3)}  # fmt: skip


def shares(wanted: Spans, found: Spans) -> tuple[float, float]:
    """mir_eval's weighted accuracies of chords over the time that the wanted ones cover: majmin and sevenths."""
    mir_eval: Any = importlib.import_module("mir_eval")  # only benchmarks and tests have it
    ends = [begin for begin, _end, _label in wanted] + [wanted[-1][1]]
    reference = np.array([ends[:-1], ends[1:]]).T
    labels = [label for _begin, _end, label in wanted]
    spans = np.array([(a, b) for a, b, _label in found])
    spans, heard = mir_eval.util.adjust_intervals(
        spans, [label for *_span, label in found], reference.min(), reference.max(), "N", "N"
    )
    both, one, other = mir_eval.util.merge_labeled_intervals(reference, labels, spans, heard)
    lasts = mir_eval.util.intervals_to_durations(both)
    judge, weigh = mir_eval.chord, mir_eval.chord.weighted_accuracy
    return float(weigh(judge.majmin(one, other), lasts)), float(weigh(judge.sevenths(one, other), lasts))


def plain_chords(audio: Floats, rate: int, tempo: float) -> Spans:
    """The reference: the nearest binary template to the chroma of each beat (T. Fujishima, ICMC 1999)."""
    rows, beat_s = harmony(held(audio, rate)), 60.0 / tempo
    states = [Chord(root, quality) for quality in ("maj", "min", "7", "maj7", "min7") for root in range(12)]
    templates = np.zeros((len(states), 12))
    for number, chord in enumerate(states):
        templates[number, list(chord.classes)] = 1.0 / np.sqrt(len(QUALITIES[chord.quality][0]))
    found: Spans = []
    for beat in range(int(audio.shape[-1] / rate / beat_s)):
        edges = (round(beat * beat_s / HARMONY_HOP_S), round((beat + 1) * beat_s / HARMONY_HOP_S))
        chroma = rows[edges[0] : max(edges[1], edges[0] + 1)].mean(axis=0)
        found.append((beat * beat_s, (beat + 1) * beat_s, states[int(np.argmax(templates @ chroma))].label))
    return found
