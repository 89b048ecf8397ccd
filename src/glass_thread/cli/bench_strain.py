"""What the benchmark measures of Strain: its rank correlation with the damage that rendering really does."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from scipy.stats import spearmanr

from ..core.analysis.analysis import analyse
from ..core.document.strain import Asked, asked_of, strain
from ..core.measure import evaluation as ev
from ..core.plan.curve import curve_correction
from ..core.signal.types import Floats
from ..core.synthesis.render import render_whole
from ..demo.singer import Sung, sing
from ..demo.voices import VOICES, random_performance, with_vibrato
from .bench_analysis import Row, truth_on_grid

RATE = 44_100
# label: (least and most cents off, share of the vibrato kept, formant shift in semitones)
STRAINS: dict[str, tuple[float, float, float, float]] = {
    "10-50": (10, 50, 1.0, 0.0),
    "50-200": (50, 200, 1.0, 0.0),
    "200-500": (200, 500, 1.0, 0.0),
    "700-1200": (700, 1200, 1.0, 0.0),
    "vibrato 30 %": (0, 0, 0.3, 0.0),
    "formant": (10, 100, 1.0, 3.0),
}


@dataclass(frozen=True)
class Damaged:
    """One rendered note: what was asked, and its mel-cepstral distance to the singer's own in dB."""

    label: str
    voice: str
    asked: Asked
    damage_db: float


def damaged_notes(voices: list[str], seed: int) -> list[Damaged]:
    """Notes of all voices and sizes of correction, against the singer's own render of what was asked."""
    found = []
    for label, (least, most, vibrato, formant) in STRAINS.items():
        for name in voices:
            if vibrato != 1.0 and VOICES[name][3] == 0:
                continue
            performance = random_performance(name, seed, off=(least, most), duration_s=8.0)
            right = with_vibrato(performance.in_tune(), vibrato)
            sign = 1 if sum(map(ord, name)) % 2 else -1
            factor = 2.0 ** (sign * formant / 12.0)
            ideal = sing(replace(right, voice=replace(right.voice, formants=right.voice.formants * factor)), RATE)
            found += _of_take(label, name, sing(performance, RATE), ideal, sign * formant)
    return found


def _of_take(label: str, name: str, source: Sung, ideal: Sung, formant: float) -> list[Damaged]:
    analysis = analyse(source.audio, RATE)
    correction = curve_correction(analysis.contour, analysis.notes, truth_on_grid(ideal))
    tract = np.where(analysis.contour.voiced, formant, 0.0)
    tuned = render_whole(source.audio[np.newaxis], RATE, analysis.contour, correction, formant=tract)[0]
    rows = []
    for note in analysis.notes:
        if note.end_s - note.start_s < 0.1:
            continue
        asked = asked_of(note, analysis, correction, tract)
        rows.append(Damaged(label, name, asked, _damage(tuned, ideal.audio, note.start_s, note.end_s)))
    return rows


def _damage(tuned: Floats, ideal: Floats, start_s: float, end_s: float) -> float:
    part = slice(int(start_s * RATE), int(end_s * RATE))
    return ev.cepstral_distance(tuned[part], ideal[part], RATE)


def bench_strain(voices: list[str], seed: int) -> list[Row]:
    """One row a class and one for all: notes, damage and strain, and their rank correlation (Spearman)."""
    notes = damaged_notes(voices, seed)
    rows = []
    for label in ("all", *STRAINS):
        chosen = [n for n in notes if label in ("all", n.label) and n.damage_db > 0.0]
        damage, told = np.array([n.damage_db for n in chosen]), np.array([strain(n.asked) for n in chosen])
        rank = float(spearmanr(damage, told)[0]) if len(chosen) > 2 else float("nan")
        rows.append({"correction": label, "notes": len(chosen), "damage_db": float(np.median(damage)),
                     "strain": float(np.median(told)), "rank_correlation": rank})  # fmt: skip
    return rows
