"""Notes by a hidden Markov model, as a reference for the benchmark.

After M. Mauch et al., "Computer-aided melody note transcription using the Tony software", TENOR 2015, and M. P.
Ryynänen and A. Klapuri, "Modelling of note events for singing transcription", 2004: each pitch has an attack, a stable
and a silent state; attack and stable states see the pitch through normal distributions of different width, and a note
is left only through silence or by the attack of another.  The numbers are from memory.
"""

from __future__ import annotations

import itertools

import numpy as np

from ...core.measure.evaluation import NoteTruth
from ...core.signal.signal_tools import runs
from ...core.signal.types import Contour

STEPS, LOWEST, OCTAVES = 3, 35.0, 5  # states a semitone, lowest pitch
ATTACK_SPREAD, STABLE_SPREAD, SILENT = 5.0, 0.9, 0.1  # semitones; likelihood of a frame where nobody sings
STAY_ATTACK, STAY_STABLE, STAY_SILENT = 0.9, 0.99, 0.9999
LEAP_SPREAD = 8.0  # semitones between notes
SHORTEST_FRAMES = 12


def markov_notes(contour: Contour) -> list[NoteTruth]:
    """Start and end in seconds and pitch in MIDI of each note, by the Viterbi path."""
    pitches = LOWEST + np.arange(12 * OCTAVES * STEPS) / STEPS
    path = _viterbi(contour, pitches)
    found = []
    for a, b in runs(path >= 0):
        edges = [a, *(a + 1 + np.flatnonzero(np.diff(path[a:b]) != 0)), b]
        for first, last in itertools.pairwise(edges):
            own = contour.midi[first:last]
            if last - first >= SHORTEST_FRAMES and np.isfinite(own).any():
                found.append((first * contour.hop_s, last * contour.hop_s, float(np.nanmedian(own))))
    return found


def _viterbi(contour: Contour, pitches: np.ndarray) -> np.ndarray:
    """Number of the note a frame belongs to, counted up at each attack; −1 where nobody sings."""
    n, size = len(contour.midi), len(pitches)
    leap = -0.5 * ((pitches[:, None] - pitches[None, :]) / LEAP_SPREAD) ** 2
    leap -= np.log(np.exp(leap).sum(axis=1, keepdims=True))
    score = np.full((3, size), np.log(1.0 / size))
    back = np.zeros((n, 3, size), dtype=np.int16)  # from which state: kind * size + pitch
    here = np.arange(size)
    for t in range(n):
        came = score[:, :, None] + np.log(np.array([1e-4, 1.0 - STAY_STABLE, 1.0 - STAY_SILENT]))[:, None, None] + leap
        into = came[1:].reshape(2 * size, size)
        best = into.argmax(axis=0)
        new = into[best, here]
        stay = np.stack(
            (score[0] + np.log(STAY_ATTACK), score[1] + np.log(STAY_STABLE), score[2] + np.log(STAY_SILENT))
        )
        steady = score[0] + np.log(1.0 - STAY_ATTACK)
        quiet = score[1] + np.log(1.0 - STAY_STABLE)
        back[t, 0] = np.where(new > stay[0], size + best, here)
        back[t, 1] = np.where(steady > stay[1], here, size + here)
        back[t, 2] = np.where(quiet > stay[2], size + here, 2 * size + here)
        score = np.stack((np.maximum(new, stay[0]), np.maximum(steady, stay[1]), np.maximum(quiet, stay[2])))
        score += _seen(contour.midi[t], contour.confidence[t], pitches)
        score -= score.max()
    return _trace(score, back, size)


def _seen(midi: float, confidence: float, pitches: np.ndarray) -> np.ndarray:
    """Log likelihood of one frame in each state, shape (3, pitches)."""
    voiced = float(np.isfinite(midi)) * confidence
    silent = np.full(len(pitches), np.log(max(1.0 - voiced, 1e-3) * SILENT))
    if voiced == 0.0:
        return np.stack((np.full(len(pitches), np.log(1e-4)), np.full(len(pitches), np.log(1e-4)), silent))
    off = midi - pitches
    sung = [
        np.log(voiced + 1e-9) - 0.5 * (off / width) ** 2 - np.log(width) for width in (ATTACK_SPREAD, STABLE_SPREAD)
    ]
    return np.stack((*sung, silent))


def _trace(score: np.ndarray, back: np.ndarray, size: int) -> np.ndarray:
    n = len(back)
    state = int(score.argmax())
    path = np.zeros(n, dtype=np.int64)
    for t in range(n - 1, -1, -1):
        path[t] = state
        state = int(back[t].reshape(-1)[state])
    kind = path // size
    begins = (kind == 0) & (np.concatenate(([2], kind[:-1])) != 0)
    return np.where(kind == 2, -1, np.cumsum(begins))
