"""Which chord sounds at a note, where a voice beside it goes, and how far the pure interval lies from where it is.

A chord comes as rows of a start and an end in seconds and a pitch class from C on, one for each of its notes, the root
first; all with the same start are one chord.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence

import numpy as np

from ...song.tuning import Tuning

NEAREST_VOICE = 2.5  # semitones between a voice and another one beside it, at least: no unison, no second
# Pure intervals over the root in cents, by the semitones that they have in twelve equal steps: minor third 6/5, major
# third 5/4, fifth 3/2 (J. Backus, "The Acoustical Foundations of Music", 1969; the ratios are common knowledge).
PURE = {3: 1200.0 * float(np.log2(6 / 5)), 4: 1200.0 * float(np.log2(5 / 4)), 7: 1200.0 * float(np.log2(3 / 2))}
PARTS = {3: "third", 4: "third", 7: "fifth"}


class Chords:
    """Chords over time."""

    def __init__(self, rows: Sequence[Sequence[float]]) -> None:
        found: dict[float, tuple[float, list[int]]] = {}
        for start_s, end_s, pitch_class in rows:
            found.setdefault(start_s, (end_s, []))[1].append(round(pitch_class) % 12)
        self._starts = sorted(found)
        self._chords = [found[start] for start in self._starts]

    def at(self, time_s: float) -> list[int]:
        """The pitch classes that sound at a time, the root first; none where there is no chord."""
        place = bisect_right(self._starts, time_s) - 1
        return self._chords[place][1] if place >= 0 and time_s < self._chords[place][0] else []


def beside(tuning: Tuning, midi: float, wanted: float, classes: Sequence[int]) -> float:
    """The note of a chord nearest to a wanted pitch, on the same side of a voice at `midi` and not too near to it; the
    wanted pitch itself where there is no chord."""
    side = 1.0 if wanted >= midi else -1.0
    near = [pitch for step in range(-7, 8) if (pitch := round(wanted) + step) % 12 in classes]
    fits = [pitch for pitch in near if (pitch - midi) * side >= NEAREST_VOICE]
    if not fits:
        return wanted
    return tuning.nearest(float(min(fits, key=lambda pitch: abs(pitch - wanted))), "semitone")


def pure_lean(tuning: Tuning, midi: float, classes: Sequence[int]) -> tuple[str, float]:
    """Which note of a chord a pitch is, third or fifth, and how many cents its pure interval over the root lies from
    it; "" and 0 for any other."""
    if not classes or round(midi) % 12 not in classes:
        return "", 0.0
    steps = (round(midi) - classes[0]) % 12
    if steps not in PURE:
        return "", 0.0
    root = tuning.nearest(float(round(midi) - steps), "semitone")
    return PARTS[steps], round(PURE[steps] - 100.0 * (midi - root), 2)
