"""Tell talk from singing: a singer holds pitches, a speaker glides all the time.

The limits lie between five spoken clips and the sung ones of docs/benchmark.md: of speech at most 0.64 of the voice is
held and the flattest quarter moves at 6.3 semitones a second or faster; of singing, fast runs included, 0.66 and 4.3.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ...signal.signal_tools import runs
from ...signal.types import HOP_S, Floats, Note, Phrase
from .segmentation import vibrato_midline

HELD_FRAMES, HELD_CENTS = 12, 60.0  # a pitch counts as held when it stays within so much for so long
SLOPE_FRAMES = 8
MOST_HELD, LEAST_SLOPE = 0.72, 5.3  # share of the voice, and semitones a second
SHORTEST_VOICE_S, BESIDE_S = 0.5, 1.0
SHORTEST_RUN = 10


def mark_spoken(notes: Sequence[Note], phrases: Sequence[Phrase], midi: Floats) -> tuple[Note, ...]:
    """The notes with those of spoken phrases marked; `midi` is the contour, shape (n,).

    A phrase too short to tell is what the one beside it is.
    """
    spans = {phrase.index: (phrase.start_s, phrase.end_s) for phrase in phrases}
    told = {phrase: sounds_spoken(midi[round(a / HOP_S) : round(b / HOP_S)]) for phrase, (a, b) in spans.items()}
    spoken = {phrase: _with_neighbour(phrase, told, spans) for phrase in told}
    return tuple(replace(note, spoken=True) if spoken[note.phrase] else note for note in notes)


def _with_neighbour(phrase: int, told: dict[int, bool | None], spans: dict[int, tuple[float, float]]) -> bool:
    own = told[phrase]
    if own is not None:
        return own
    a, b = spans[phrase]
    near = [(max(a - spans[k][1], spans[k][0] - b), k) for k in (phrase - 1, phrase + 1) if k in told]
    apart, nearest = min(near, default=(BESIDE_S, phrase))
    return apart < BESIDE_S and bool(told[nearest])


def sounds_spoken(midi: Floats) -> bool | None:
    """Whether a phrase, pitch of shape (n,) with NaN where unvoiced, moves as speech does; None when too short."""
    held = voiced = 0
    slopes: list[Floats] = []
    for a, b in runs(np.isfinite(midi)):
        if b - a <= SHORTEST_RUN:
            continue
        cents = vibrato_midline(100.0 * midi[a:b])
        voiced += b - a
        held += int(_held(cents).sum())
        slopes.append(np.abs(cents[SLOPE_FRAMES:] - cents[:-SLOPE_FRAMES]) / (100.0 * SLOPE_FRAMES * HOP_S))
    if voiced * HOP_S < SHORTEST_VOICE_S:
        return None
    return held / voiced < MOST_HELD and float(np.percentile(np.concatenate(slopes), 25)) > LEAST_SLOPE


def _held(cents: Floats) -> np.ndarray:
    """Frames that lie in a stretch of `HELD_FRAMES` within `HELD_CENTS`."""
    if len(cents) < HELD_FRAMES:
        return np.zeros(len(cents), dtype=bool)
    windows = np.lib.stride_tricks.sliding_window_view(cents, HELD_FRAMES)
    steady = np.ptp(windows, axis=1) <= HELD_CENTS
    return np.convolve(steady, np.ones(HELD_FRAMES)) > 0.5
