"""What the benchmark measures of Strain: its rank correlation with the damage that rendering really does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from scipy.stats import spearmanr

from ...core.analysis.analysis import analyse
from ...core.document.strain import Asked, asked_of, strain
from ...core.measure import evaluation as ev
from ...core.plan.pitch.curve import curve_correction
from ...core.signal.types import HOP_S, Floats, Note
from ...core.synthesis.render import render_whole
from ...demo.singer import Sung, sing
from ...demo.voices import VOICES, random_performance, with_vibrato
from ..sound.real import Clip, moved, read_clip
from .analysis import Row, truth_on_grid

RATE = 44_100
INTERVALS = (25, -50, 100, -150, 200, -300, 400, -500, 700, -900, 1200)  # cents, for real voices
MEASURED = ("envelope distance", "harmonics-to-noise lost", "unevenness added")
_LONG_S = 0.25
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


def bench_strain_real(clips: Sequence[Path]) -> list[Row]:
    """Rank correlation of Strain with what can be measured on real voices, of which no truth is known: how far the
    envelope is from the sung one, harmonics-to-noise lost, and unevenness of level added; over all notes and intervals,
    and over the intervals of each note alone."""
    rows = []
    for clip in map(read_clip, clips):
        told, measured = _of_clip(clip)
        for i, what in enumerate(MEASURED):
            each = [spearmanr(one[:, i], row)[0] for one, row in zip(measured, told, strict=True)]
            rows.append({"clip": clip.name, "against": what, "notes": len(told),
                         "all": float(spearmanr(np.concatenate(measured)[:, i], np.concatenate(told))[0]),
                         "within a note": float(np.nanmedian(each))})  # fmt: skip
    return rows


def _of_clip(clip: Clip) -> tuple[list[Floats], list[Floats]]:
    """Strain of each note at each interval, and the measures, shapes (intervals,) and (intervals, 3)."""
    notes = [note for note in clip.found.notes if note.end_s - note.start_s >= _LONG_S and not note.spoken]
    none = np.zeros(len(clip.found.contour.midi))
    told, measured = ([list[Any]() for _ in notes] for _ in range(2))
    for cents in INTERVALS:
        tuned = moved(clip, cents)
        correction = np.where(clip.found.contour.voiced, cents / 100.0, 0.0)
        for k, note in enumerate(notes):
            told[k].append(strain(asked_of(note, clip.found, correction, none)))
            measured[k].append(_measured(clip, tuned, note, cents))
    return [np.array(one) for one in told], [np.array(one) for one in measured]


def _measured(clip: Clip, tuned: Floats, note: Note, cents: int) -> tuple[float, float, float]:
    part = slice(int(note.start_s * clip.rate), int(note.end_s * clip.rate))
    frames = slice(
        round(note.start_s / HOP_S), round(note.start_s / HOP_S) + round((note.end_s - note.start_s) / HOP_S)
    )
    sung, new, midi = clip.audio[part], tuned[part], clip.found.contour.midi[frames]
    noise = [ev.harmonics_to_noise(x, clip.rate, pitch) for x, pitch in ((sung, midi), (new, midi + cents / 100.0))]
    uneven = [float(np.std(np.diff(_levels(x, clip.rate)))) for x in (sung, new)]
    return ev.cepstral_distance(new, sung, clip.rate), noise[0] - noise[1], uneven[1] - uneven[0]


def _levels(audio: Floats, rate: int) -> Floats:
    """Level each 10 ms in dB."""
    size = rate // 100
    whole = audio[: len(audio) // size * size].reshape(-1, size)
    return 10.0 * np.log10(np.mean(whole**2, axis=1) + 1e-9)
