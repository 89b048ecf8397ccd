"""Which note of a melody each sung note belongs to: by time, by order, or by following the line."""

from __future__ import annotations

from collections.abc import Sequence

import numba
import numpy as np

from ...signal.errors import ParameterError
from ...signal.types import Floats

WAYS = ("time", "order", "following")
_LEAST_SHARE = 0.3  # of a sung note over which the melody's note has to sound, by time
_MOST_CELLS = 4_000_000
# What it costs, following the line, to leave a note of either out; and what a pair costs by how unlike it is. Set on
# made melodies with notes left out, notes added, other tempos and another voice's pitches.
_ALONE = 0.7
_NEAR_S, _NEAR_SEMITONES = 0.6, 4.0
_WEIGHTS = (1.0, 0.4, 0.6)  # start, length, pitch
_PASSES = 3

Sung = tuple[float, float, float]


def match_melody(sung: Sequence[Sung], melody: Sequence[Sequence[float]], way: str) -> list[int]:
    """The place in the melody of each sung note, or -1 for none.

    Both are (start s, end s, MIDI pitch) in order of time.  By time, a sung note takes the one that sounds longest
    meanwhile; by order, the first takes the first; following, the two lines are laid on each other whatever their tempo
    and pitch, and what only one of them has is left out.
    """
    if way == "order":
        return [i if i < len(melody) else -1 for i in range(len(sung))]
    return _following(sung, melody) if way == "following" else [_by_time(one, melody) for one in sung]


def _by_time(one: Sung, melody: Sequence[Sequence[float]]) -> int:
    start, end, _pitch = one
    along = [max(0.0, min(end, b) - max(start, a)) for a, b, _midi in melody]
    best = int(np.argmax(along)) if along else -1
    return best if best >= 0 and along[best] >= _LEAST_SHARE * (end - start) else -1


def _following(sung: Sequence[Sung], melody: Sequence[Sequence[float]]) -> list[int]:
    if not sung or not melody:
        return [-1] * len(sung)
    if len(sung) * len(melody) > _MOST_CELLS:
        raise ParameterError("This melody is too long to be followed at once; choose a phrase, or go by time.")
    here, there = np.array(sung, dtype=float), np.array(melody, dtype=float)
    placed = _rescaled(there[:, 0], (there[0, 0], there[-1, 1]), (here[0, 0], here[-1, 1]))
    pitch_off = float(np.median(here[:, 2]) - np.median(there[:, 2]))
    pairs: list[int] = []
    for _ in range(_PASSES):
        pairs = _aligned(_unlike(here, there, placed, pitch_off), _ALONE).tolist()
        both = [(i, j) for i, j in enumerate(pairs) if j >= 0]
        if len(both) < 2:
            break
        own, other = (list(one) for one in zip(*both, strict=True))
        placed = _through(there[:, 0], there[other, 0], here[own, 0])
        pitch_off = float(np.median(here[own, 2] - there[other, 2]))
    return pairs


def _rescaled(times: Floats, given: tuple[float, float], wanted: tuple[float, float]) -> Floats:
    pace = (wanted[1] - wanted[0]) / max(given[1] - given[0], 1e-6)
    return wanted[0] + (times - given[0]) * pace


def _through(times: Floats, given: Floats, wanted: Floats) -> Floats:
    """Times on the other clock, as a line through pairs that lie close says, so that no single pair bends it much."""
    slope, begin = np.polyfit(given, wanted, 1) if len(given) > 2 else (1.0, float(wanted[0] - given[0]))
    off = np.interp(times, given, wanted - (slope * given + begin))
    return np.asarray(slope * times + begin + off)


def _unlike(here: Floats, there: Floats, placed: Floats, pitch_off: float) -> Floats:
    """How unlike each sung note is to each of the melody, shape (n, m)."""
    pace = (here[-1, 1] - here[0, 0]) / max(there[-1, 1] - there[0, 0], 1e-6)
    starts = np.minimum(np.abs(here[:, None, 0] - placed[None, :]) / _NEAR_S, 1.5)
    lengths = [np.maximum(one[:, 1] - one[:, 0], 0.02) for one in (here, there)]
    longer = np.minimum(np.abs(np.log(lengths[0][:, None] / (pace * lengths[1][None, :]))), 1.5)
    pitches = np.minimum(np.abs(here[:, None, 2] - there[None, :, 2] - pitch_off) / _NEAR_SEMITONES, 1.5)
    parts = zip(_WEIGHTS, (starts, longer, pitches), strict=True)
    return np.asarray(sum(weight * part for weight, part in parts))


@numba.njit(cache=True, nogil=True)
def _aligned(unlike, alone):  # type: ignore[no-untyped-def]  # pragma: no cover - compiled
    """The cheapest way through both lines in order (Needleman and Wunsch 1970, from memory); -1 for a note alone."""
    n, m = unlike.shape
    cost = np.zeros((n + 1, m + 1))
    for i in range(n + 1):
        cost[i, 0] = i * alone
    for j in range(m + 1):
        cost[0, j] = j * alone
    for i in range(1, n + 1):
        for j in range(1, m + 1):
            cost[i, j] = min(cost[i - 1, j - 1] + unlike[i - 1, j - 1], cost[i - 1, j] + alone, cost[i, j - 1] + alone)
    found = np.full(n, -1, dtype=np.int64)
    i, j = n, m
    while i > 0 and j > 0:
        if cost[i, j] == cost[i - 1, j - 1] + unlike[i - 1, j - 1]:
            found[i - 1] = j - 1
            i -= 1
            j -= 1
        elif cost[i, j] == cost[i - 1, j] + alone:
            i -= 1
        else:
            j -= 1
    return found
