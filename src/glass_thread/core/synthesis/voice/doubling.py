"""Voices whose cycles differ by turns, as in growl and creak: their subharmonics stay at half the new pitch.

Period doubling is heard as an octave below and roughness (I. R. Titze, "Workshop on acoustic voice analysis: summary
statement", National Center for Voice and Speech, 1995, from memory, calls such signals type 2).  What differs between
neighbouring cycles is in no harmonic; it is in what is carried over cycle by cycle, and survives only when odd and even
cycles keep following each other.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ...signal.signal_tools import moving_average
from ...signal.types import Floats

_POINTS = 24  # at which a cycle is compared with its neighbours
_CYCLES = 9  # over which that is judged
_ALTERNATING = 0.4  # 1 where cycles only alternate, 0 for breath
_LEAST = 1e-4  # of a cycle's power
_BENT = 1.5  # power by which a cycle of noise departs from the mean of two others


def doubled_cycles(audio: Floats, marks: Floats) -> NDArray[np.bool_]:
    """Marks after which cycles differ by turns.

    What alternates makes a cycle more like the next but one than like the next; breath, which is what else departs from
    the mean of both neighbours, does so by chance only.

    Parameters
    ----------
    audio : ndarray, shape (channels, n)
        What the marks are of; the mean of its channels is looked at.
    marks : ndarray, shape (m,)
        Marks in samples of `audio`.
    """
    if len(marks) < _CYCLES:
        return np.zeros(len(marks), dtype=bool)
    inside = (np.arange(_POINTS) + 0.5) / _POINTS
    at = marks[:-1, None] + np.diff(marks)[:, None] * inside
    first, last = int(marks[0]), min(int(marks[-1]) + 2, audio.shape[1])
    cycles = np.interp(at, np.arange(first, last), audio[:, first:last].mean(axis=0))
    before, here, after = cycles[:-2], cycles[1:-1], cycles[2:]
    means = [np.mean(values, axis=1) for values in
             (before * after, here * (before + after) / 2, (here - (before + after) / 2) ** 2, here**2)]  # fmt: skip
    far, near, bend, energy = (moving_average(values, _CYCLES) for values in means)
    alternating = np.maximum(far - near, 0.0) / 2.0
    other = np.maximum(bend - 4.0 * alternating, 0.0) / _BENT
    found = alternating > _ALTERNATING * (alternating + other) + _LEAST * energy
    return np.pad(found, (1, len(marks) - 1 - len(found)), mode="edge")


def by_turns(
    sources: NDArray[np.int64], origins: Floats, marks: Floats, doubled: NDArray[np.bool_]
) -> NDArray[np.int64]:
    """Sources, shape (n,), that go on alternating between odd and even marks while `doubled`, shape (m,), holds.

    Where the next one would be of the wrong kind, the nearer of its neighbours is taken.
    """
    here = doubled[sources]
    if not here.any():
        return sources
    chosen = sources.copy()
    for j in range(1, len(sources)):
        if here[j] and here[j - 1] and chosen[j] % 2 == chosen[j - 1] % 2:
            later = origins[j] > marks[sources[j]]
            chosen[j] = sources[j] + (1 if later else -1)
            if not 0 <= chosen[j] < len(marks):
                chosen[j] = sources[j] + (-1 if later else 1)
    return chosen
