"""``glass-thread bench dirt``, second table: where notes are cut, against a hidden Markov model of notes.

Both read the same contour.  On made voices a note is right within 50 ms and 50 cents of the score.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ...core.analysis.analysis import analyse
from ...core.measure.evaluation import note_f1
from ...demo.dirt import DIRT
from ...demo.singer import sing
from ...demo.voices import VOICES as EVERY_VOICE
from ...demo.voices import random_performance
from .analysis import found_notes, sung_notes
from .dirt import RATE, VOICES
from .note_markov import markov_notes

TAKES = ("bleed at −30 dB", "room of 0.9 s at −20 dB", "creaky starts")


def bench_cuts(seed: int) -> list[dict[str, Any]]:
    """One row a kind of material: the note F of both, and the notes each finds for one that was sung."""
    rows = [_row(voice, [(voice, "as sung")], seed) for voice in EVERY_VOICE]
    return rows + [_row(name, [(voice, name) for voice in VOICES], seed) for name in TAKES]


def _row(title: str, takes: list[tuple[str, str]], seed: int) -> dict[str, Any]:
    scores: dict[str, list[float]] = {"ours": [], "markov": [], "ours found": [], "markov found": []}
    for voice, dirt in takes:
        performance = random_performance(voice, seed)
        found = analyse(DIRT[dirt](sing(performance, RATE), seed).audio, RATE)
        wanted = sung_notes(performance)
        for name, notes in (("ours", found_notes(found)), ("markov", markov_notes(found.contour))):
            scores[name].append(note_f1(notes, wanted))
            scores[f"{name} found"].append(len(notes) / len(wanted))
    return {"material": title, **{name: float(np.mean(values)) for name, values in scores.items()}}
