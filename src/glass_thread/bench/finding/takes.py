"""``glass-thread bench takes``: what is found in takes as they arrive, with room, hum, bleed, noise, creak."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ...core.analysis.analysis import analyse
from ...core.measure import evaluation as ev
from ...core.signal.types import HOP_S, Analysis
from ...demo.dirt import DIRT
from ...demo.score import Performance
from ...demo.singer import Sung, sing
from ...demo.voices import random_performance
from .analysis import found_notes, sung_notes, truth_on_grid

Row = dict[str, Any]
RATE = 44_100
VOICES = ("alto", "tenor", "bass")
ALONE = ("soprano", "breathy", "rough", "runs")
_EDGE = np.ones(7)


def bench_takes(seed: int, voices: Sequence[str] = VOICES) -> list[Row]:
    """One row a kind of dirt, means over voices; then voices that are hard by themselves."""
    rows = []
    for name, dirty in DIRT.items():
        rows.append({"take": name, **_mean([_scores(voice, seed, dirty) for voice in voices])})
    rows += [{"take": f"{voice}, as sung", **_scores(voice, seed, DIRT["as sung"])} for voice in ALONE]
    return rows


def _mean(rows: list[Row]) -> Row:
    return {key: float(np.mean([row[key] for row in rows])) for key in rows[0]}


def _scores(voice: str, seed: int, dirty: Any) -> Row:
    performance = random_performance(voice, seed)
    clean = sing(performance, RATE)
    take = dirty(clean, seed)
    return take_scores(analyse(take.audio, RATE), performance, clean, take)


def take_scores(found: Analysis, performance: Performance, clean: Sung, take: Sung) -> Row:
    """Voicing where nobody sings, recall, note F (onset 50 ms, pitch 50 cents), frames within 10 cents, and what the
    confidence says against the share right within 50 cents; `take` may know less of the truth than `clean`."""
    sung, truth = truth_on_grid(clean), truth_on_grid(take)
    midi = found.contour.midi[: len(truth)]
    nobody, inner = _inside(~np.isfinite(sung)), _inside(np.isfinite(truth))
    voiced = np.isfinite(midi)
    error = 100.0 * np.abs(midi - truth)
    judged = voiced & (np.isfinite(truth) | ~np.isfinite(sung))
    notes, wanted = found_notes(found), sung_notes(performance)
    return {
        "false voicing": float(voiced[nobody].mean()),
        "recall": float(voiced[inner].mean()),
        "note F": ev.note_f1(notes, wanted),
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
