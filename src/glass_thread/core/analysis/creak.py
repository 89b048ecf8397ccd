"""Creak: irregular low pulses with which a voice sets in or dies away; they belong to their note but have no pitch.

The pulses of creaky voice lie far under the modal voice, mostly below 70 Hz (P. A. Keating, M. Garellek, J. Kreiman,
"Acoustic properties of different kinds of creaky voice", ICPhS 2015, from memory).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..signal.signal_tools import run_around, runs
from ..signal.types import HOP_S, Floats, Note
from .air import AirFeatures

LONGEST_S, SHORTEST_S, REACH_S = 0.2, 0.03, 0.06
UNDER_SEMITONES, LOWEST_MIDI = 7.0, 37.5  # 37.5: 71 Hz
UNDER_VOICE_DB = 22.0
LOW_SHARE = 0.5  # power below 1 kHz, of all
_BESIDE_FRAMES = 12  # of the steady voice that creak is compared with


def find_creak(midi: Floats, level: Floats, features: AirFeatures) -> NDArray[np.bool_]:
    """Frames of creak beside a steady voice; `midi` (NaN unvoiced) and `level` in dB have shape (n,)."""
    found = np.zeros(len(midi), dtype=bool)
    total = np.maximum(features.power.sum(axis=1), 1e-20)
    low = features.power[:, 0] > LOW_SHARE * total
    steady = _steady_runs(midi)
    for i, (a, b) in enumerate(steady):
        before = steady[i - 1][1] if i > 0 else 0
        after = steady[i + 1][0] if i + 1 < len(steady) else len(midi)
        loud = float(np.percentile(level[a:b], 75)) - UNDER_VOICE_DB
        here = low & (level > loud)
        first = _reach(here[before:a][::-1])
        last = _reach(here[b:after])
        if _creaks(midi[a - first : a], midi[a : a + _BESIDE_FRAMES]):
            found[a - first : a] = True
        if _creaks(midi[b : b + last], midi[max(a, b - _BESIDE_FRAMES) : b]):
            found[b : b + last] = True
    return found


def creak_of(notes: Sequence[Note], midi: Floats) -> NDArray[np.bool_]:
    """The frames of creak at the ends of notes as they were found: those without a pitch in `midi`, shape (n,)."""
    found = np.zeros(len(midi), dtype=bool)
    for note in notes:
        a, b = round(note.start_s / HOP_S), round(note.end_s / HOP_S)
        pitched = np.flatnonzero(np.isfinite(midi[a:b]))
        if len(pitched):
            found[a : a + pitched[0]] = True
            found[a + pitched[-1] + 1 : b] = True
    return found


def with_creak(ranges: Sequence[tuple[int, int]], creak: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Frame ranges of notes, in time order, with the creak at their ends; between two notes the first has it."""
    found: list[tuple[int, int]] = []
    for a, b in ranges:
        first, last = run_around(creak, a, b)
        found.append((max(first, found[-1][1]) if found else first, last))
    return found


def _steady_runs(midi: Floats) -> list[tuple[int, int]]:
    """Voiced runs that are no short stretch far under what lies beside them."""
    voiced = runs(np.isfinite(midi))
    middles = [float(np.median(midi[a:b])) for a, b in voiced]
    kept = []
    for i, (a, b) in enumerate(voiced):
        beside = [middles[j] for j in (i - 1, i + 1) if 0 <= j < len(voiced) and _near(voiced[i], voiced[j])]
        short = (b - a) * HOP_S < LONGEST_S
        if not (short and beside and middles[i] < min(max(beside) - UNDER_SEMITONES, LOWEST_MIDI)):
            kept.append((a, b))
    return kept


def _near(first: tuple[int, int], second: tuple[int, int]) -> bool:
    return max(second[0] - first[1], first[0] - second[1]) * HOP_S <= REACH_S


def _reach(sounding: NDArray[np.bool_]) -> int:
    """How many frames sound on from the first, up to the longest creak; a frame or two may be missing."""
    missing, count = 0, 0
    for i, on in enumerate(sounding[: round(LONGEST_S / HOP_S)]):
        missing = 0 if on else missing + 1
        if missing > 2:
            break
        count = i + 1 if on else count
    return count


def _creaks(part: Floats, voice: Floats) -> bool:
    """Whether a stretch beside a voice is creak: long enough, and what pitch was read in it far under the voice."""
    if len(part) * HOP_S < SHORTEST_S or not np.isfinite(voice).any():
        return False
    read = part[np.isfinite(part)]
    return len(read) == 0 or bool(np.median(read) < np.nanmedian(voice) - UNDER_SEMITONES)
