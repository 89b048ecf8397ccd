"""``glass-thread bench dirt``: what is found in takes as they arrive, with room, hum, bleed, noise, creak; the trackers
beside it read the same takes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ...core.analysis.analysis import analyse
from ...core.measure import evaluation as ev
from ...core.signal.types import HOP_S, Analysis, Floats
from ...demo.dirt import DIRT, with_other
from ...demo.score import Performance
from ...demo.singer import Sung, sing
from ...demo.voices import random_performance
from ..sound.references import reference_trackers
from .analysis import found_notes, sung_notes, truth_on_grid

Row = dict[str, Any]
RATE = 44_100
VOICES = ("bass", "tenor", "alto", "soprano", "breathy")
ALONE = ("rough", "runs", "fast runs", "all breath")
_EDGE = np.ones(7)


def bench_dirt(seed: int, voices: Sequence[str] = VOICES, kinds: Sequence[str] = tuple(DIRT)) -> list[Row]:
    """One row a kind of dirt, means over voices; then voices that are hard by themselves, and two at a time."""
    rows = [{"take": kind, **_mean([_dirty(voice, seed, kind) for voice in voices])} for kind in kinds]
    rows += [{"take": f"{voice}, as sung", **_dirty(voice, seed, "as sung")} for voice in ALONE]
    return [*rows, {"take": "unison double at −6 dB", **_mean([_in_unison(voice, seed) for voice in voices])}]


def _mean(rows: list[Row]) -> Row:
    return {key: float(np.mean([row[key] for row in rows])) for key in rows[0]}


def _dirty(voice: str, seed: int, kind: str) -> Row:
    performance = random_performance(voice, seed)
    clean = sing(performance, RATE)
    return _scores(performance, clean, DIRT[kind](clean, seed))


def _in_unison(voice: str, seed: int) -> Row:
    """The same score sung twice at once: a few hundredths of a second and some cents apart."""
    performance = random_performance(voice, seed)
    late = replace(performance, seed=seed + 1, notes=tuple(
        replace(note, start_s=note.start_s + 0.02, end_s=note.end_s + 0.02, off=note.off + 9.0)
        for note in performance.notes))  # fmt: skip
    clean = sing(performance, RATE)
    return _scores(performance, clean, with_other(clean, sing(late, RATE), -6.0))


def _scores(performance: Performance, clean: Sung, take: Sung) -> Row:
    sung, truth = truth_on_grid(clean), truth_on_grid(take)
    row = take_scores(analyse(take.audio, RATE), performance, clean, take)
    for name, track in reference_trackers().items():
        midi = track(take.audio, RATE)[: len(truth)]
        midi = np.pad(midi, (0, len(truth) - len(midi)), constant_values=np.nan)
        row[f"within 50, {name}"] = _within(midi, truth, 50.0)
        row[f"false, {name}"] = float(np.isfinite(midi)[_inside(~np.isfinite(sung))].mean())
    return row


def _within(midi: Floats, truth: Floats, cents: float) -> float:
    """Of the frames inside what is sung, the share read so near."""
    inner = _inside(np.isfinite(truth))
    return float(np.mean(np.nan_to_num(100.0 * np.abs(midi - truth)[inner], nan=np.inf) < cents))


def lost_notes(found: Analysis, performance: Performance) -> int:
    """Notes that were sung and lie for less than half of their length under notes that were found."""
    grid = np.zeros(len(found.contour.midi), dtype=bool)
    for note in found.notes:
        grid[round(note.start_s / HOP_S) : round(note.end_s / HOP_S)] = True
    spans = [grid[round(n.start_s / HOP_S) : round(n.end_s / HOP_S)] for n in performance.notes]
    return sum(float(span.mean()) < 0.5 for span in spans)


def take_scores(found: Analysis, performance: Performance, clean: Sung, take: Sung) -> Row:
    """Sung frames read within 50 cents, voicing where nobody sings, note F (onset 50 ms, pitch 50 cents), notes lost,
    frames within 10 cents, and what the confidence says against the share right within 50 cents.

    `take` may know less of the truth than `clean`."""
    sung, truth = truth_on_grid(clean), truth_on_grid(take)
    midi = found.contour.midi[: len(truth)]
    nobody, inner = _inside(~np.isfinite(sung)), _inside(np.isfinite(truth))
    voiced = np.isfinite(midi)
    error = 100.0 * np.abs(midi - truth)
    judged = voiced & (np.isfinite(truth) | ~np.isfinite(sung))
    notes, wanted = found_notes(found), sung_notes(performance)
    return {
        "within 50": _within(midi, truth, 50.0),
        "false": float(voiced[nobody].mean()),
        "note F": ev.note_f1(notes, wanted),
        "lost": lost_notes(found, performance),
        "found": len(notes),
        "sung": len(wanted),
        "within 10 ct": float(np.mean(error[inner & voiced] < 10)),
        "said": float(found.contour.confidence[: len(truth)][judged].mean()),
        "right": float(np.mean(np.nan_to_num(error[judged], nan=999.0) < 50)),
    }


def _inside(mask: np.ndarray) -> np.ndarray:
    """Frames at least 15 ms inside a mask on the analysis grid."""
    assert HOP_S == 0.005
    return np.convolve(mask, _EDGE, "same") >= len(_EDGE)
