"""Key and reference pitch of a melody.

Key profiles: C. L. Krumhansl, E. J. Kessler, "Tracing the dynamic changes in
perceived tonal organization in a spatial representation of musical keys",
Psychological Review 89, 1982 (probe-tone ratings, values from memory of the
table as reprinted in Krumhansl 1990, p. 30).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from ..signal.scale_steps import SCALES
from ..signal.types import Floats, KeyCandidate, Note
from ..signal.units import DEFAULT_REFERENCE_HZ, midi_to_hz

MAJOR_PROFILE = np.array([6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88])
MINOR_PROFILE = np.array([6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17])
_MODES = {
    "major": (MAJOR_PROFILE, 0.0),
    "natural minor": (MINOR_PROFILE, 0.0),
    "harmonic minor": (MINOR_PROFILE, 0.04),
    "melodic minor": (MINOR_PROFILE, 0.06),
    "dorian": (MINOR_PROFILE, 0.05),
    "phrygian": (MINOR_PROFILE, 0.08),
    "mixolydian": (MAJOR_PROFILE, 0.05),
    "lydian": (MAJOR_PROFILE, 0.06),
}
_COVERAGE_WEIGHT = 1.0
BACKING_WEIGHT = 1.0
_SHARPNESS = 9.0


def _centres_and_weights(notes: Sequence[Note]) -> tuple[Floats, Floats]:
    centres = np.array([note.centre_midi for note in notes])
    weights = np.array([note.end_s - note.start_s for note in notes])
    return centres, weights


def estimate_reference(notes: Sequence[Note]) -> float:
    """Tuning of A4 in Hz, from the duration-weighted circular mean of the centres' distance to the semitone grid.

    440 Hz when there are fewer than five notes or the distances do not agree.
    """
    if len(notes) < 5:
        return DEFAULT_REFERENCE_HZ
    mean, _count = _mean_off_grid(notes)
    if abs(mean) < 0.25:
        return DEFAULT_REFERENCE_HZ
    return float(midi_to_hz(69.0 + np.angle(mean) / (2 * np.pi)))


def _mean_off_grid(notes: Sequence[Note]) -> tuple[complex, float]:
    """Circular mean of the centres' distance to the semitone grid, weighted, and of how many notes it is in effect."""
    centres, weights = _centres_and_weights(notes)
    mean = np.sum(weights * np.exp(2j * np.pi * centres)) / weights.sum()
    return complex(mean), float(weights.sum() ** 2 / np.sum(weights**2))


class SungTuning(NamedTuple):
    """By how many cents a voice lies off the semitones of A4 = 440 Hz, and how sure that is, 0 to 1."""

    cents: float
    certainty: float


def sung_tuning(notes: Sequence[Note]) -> SungTuning:
    """How far off 440 Hz a voice sings on the whole; 0 and not sure at all without notes.

    How sure: one less the chance that notes anywhere agree so well (the Rayleigh test of uniformity in its first
    approximation, exp(−n R²); K. V. Mardia and P. E. Jupp, "Directional Statistics", 2000, section 6.3, from memory).
    """
    if not notes:
        return SungTuning(0.0, 0.0)
    mean, count = _mean_off_grid(notes)
    return SungTuning(100.0 * float(np.angle(mean)) / (2.0 * np.pi), 1.0 - float(np.exp(-count * abs(mean) ** 2)))


def pitch_class_weights(notes: Sequence[Note], offset: float = 0.0) -> Floats:
    """Seconds sung on each pitch class, shape (12,); a centre between two semitones counts for both."""
    histogram = np.zeros(12)
    for note in notes:
        position = note.centre_midi - offset
        below = int(np.floor(position))
        share = position - below
        length = note.end_s - note.start_s
        histogram[below % 12] += (1 - share) * length
        histogram[(below + 1) % 12] += share * length
    return histogram


def estimate_keys(
    notes: Sequence[Note],
    *,
    reference_hz: float = DEFAULT_REFERENCE_HZ,
    count: int = 6,
    backing: Floats | None = None,
) -> tuple[KeyCandidate, ...]:
    """Rank keys by profile correlation plus the share of sung time inside the scale; best first.

    Modes other than major and natural minor pay a small penalty, so that they
    only win when their own note is really sung.  `backing`, shape (12,), is the chroma of what accompanies them.
    """
    if not notes:
        return ()
    histogram = pitch_class_weights(notes, float(12 * np.log2(reference_hz / DEFAULT_REFERENCE_HZ)))
    if backing is not None and backing.any():
        histogram = histogram + BACKING_WEIGHT * histogram.sum() * backing / backing.sum()
    share = histogram / max(histogram.sum(), 1e-9)
    rows = []
    for tonic in range(12):
        turned = np.roll(histogram, -tonic)
        for name, (profile, penalty) in _MODES.items():
            match = np.corrcoef(turned, profile)[0, 1] if turned.std() > 0 else 0.0
            inside = sum(share[(tonic + step) % 12] for step in SCALES[name])
            rows.append((float(match + _COVERAGE_WEIGHT * inside - penalty), tonic, name))
    rows.sort(key=lambda row: -row[0])
    scores = np.array([row[0] for row in rows])
    chance = np.exp(_SHARPNESS * (scores - scores[0]))
    chance /= chance.sum()
    return tuple(KeyCandidate(rows[i][1], rows[i][2], float(chance[i])) for i in range(count))
