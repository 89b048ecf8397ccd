"""How high the steps of a period lie, before any key chooses among them.

Ratios of the just scale: H. Helmholtz, "On the Sensations of Tone", translated by A. J. Ellis, 2nd edition 1885
(Dover 1954), chapter XVII and appendix XX, from memory.  Pythagorean and quarter-comma meantone are chains of fifths.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

import numpy as np

from ..signal.types import Floats
from ..signal.units import HIGHEST_MIDI, LOWEST_MIDI, ratio_to_semitones

OCTAVE = 12  # keys and semitones
BEYOND = 24.0  # semitones beyond the pitches we know to which steps are counted
_SAME = 1e-6  # semitones between two steps that are one

_JUST = (Fraction(1), Fraction(16, 15), Fraction(9, 8), Fraction(6, 5), Fraction(5, 4), Fraction(4, 3),
         Fraction(45, 32), Fraction(3, 2), Fraction(8, 5), Fraction(5, 3), Fraction(9, 5), Fraction(15, 8))  # fmt: skip
_FIFTH, _QUARTER_COMMA_FIFTH = ratio_to_semitones(1.5), ratio_to_semitones(5.0**0.25)
_FLATWARDS, _SHARPWARDS = 5, 6  # fifths from the tonic: up to its flat second, and to its sharp fourth


def _of_fifths(fifth: float) -> tuple[float, ...]:
    """Twelve steps from a chain of fifths around the tonic, in semitones."""
    chain = {(7 * k) % OCTAVE: (fifth * k) % OCTAVE for k in range(-_FLATWARDS, _SHARPWARDS + 1)}
    return tuple(chain[step] for step in range(OCTAVE))


TEMPERAMENTS: dict[str, tuple[float, ...]] = {
    "equal": tuple(float(step) for step in range(OCTAVE)),
    "just": tuple(ratio_to_semitones(float(ratio)) for ratio in _JUST),
    "pythagorean": _of_fifths(_FIFTH),
    "meantone": _of_fifths(_QUARTER_COMMA_FIFTH),
}
"""Semitones of each step above the tonic, by name."""


@dataclass(frozen=True)
class Steps:
    """Every pitch there is: steps that repeat with each period.

    Attributes
    ----------
    heights : tuple of float
        Semitones of each step above the first one, rising from 0, all below `period`.
    base_midi : float
        Where the first step of period 0 lies, at A4 = 440 Hz.
    period : float
        Semitones from a step to the same one of the next period.
    keys : tuple of int
        The key of a MIDI keyboard that plays each step, counted from `base_key`; `keys_per_period` further on is the
        next period.
    twelve : bool
        True when the steps are the twelve of a keyboard's octave, of which C is the first.
    """

    heights: tuple[float, ...]
    base_midi: float
    period: float = float(OCTAVE)
    keys: tuple[int, ...] = tuple(range(OCTAVE))
    base_key: int = 0
    keys_per_period: int = OCTAVE
    twelve: bool = True

    @cached_property
    def places(self) -> tuple[Floats, np.ndarray]:
        """All pitches from `LOWEST_MIDI` to `HIGHEST_MIDI` and some beyond, rising, shape (n,), and their step and
        period, shape (n, 2)."""
        low, high = LOWEST_MIDI - BEYOND, HIGHEST_MIDI + BEYOND
        first, last = (int(np.floor((edge - self.base_midi) / self.period)) for edge in (low, high))
        periods = np.repeat(np.arange(first, last + 1), len(self.heights))
        steps = np.tile(np.arange(len(self.heights)), last + 1 - first)
        pitches = self.base_midi + periods * self.period + np.array(self.heights)[steps]
        inside = (pitches >= low) & (pitches <= high)
        return pitches[inside], np.column_stack([steps, periods])[inside]

    def key_at(self, place: int) -> int:
        """The key of a MIDI keyboard that plays the pitch at an index of `places`."""
        step, period = self.places[1][place]
        return int(self.base_key + self.keys[step] + period * self.keys_per_period)

    def pitch_of(self, key: int) -> float | None:
        """The pitch that a key of a MIDI keyboard plays, in MIDI at A4 = 440 Hz; None where it plays nothing."""
        period, offset = divmod(key - self.base_key, self.keys_per_period)
        for step, own in enumerate(self.keys):
            if (own - offset) % self.keys_per_period == 0:
                periods = period - (own - offset) // self.keys_per_period
                return self.base_midi + periods * self.period + self.heights[step]
        return None


def keyboard_steps(pitch_of: Callable[[int], float]) -> Steps:
    """The twelve steps of a keyboard, from the pitch of each of the keys 0 to 11."""
    pitches = [pitch_of(key) for key in range(OCTAVE)]
    return Steps(tuple(pitch - pitches[0] for pitch in pitches), pitches[0])


def twelve_on(above: Sequence[float], tonic: int, *, reference_key: int, reference_midi: float) -> Steps:
    """Twelve steps to the octave, in semitones `above` a tonic, 0 to 11; the reference key lies at `reference_midi`."""
    octave, step = divmod(reference_key - tonic, OCTAVE)
    tonic_midi = reference_midi - above[step] - OCTAVE * octave  # of the tonic in the octave of key 0

    def pitch_of(key: int) -> float:
        octaves, degree = divmod(key - tonic, OCTAVE)
        return tonic_midi + OCTAVE * octaves + above[degree]

    return keyboard_steps(pitch_of)


def folded(heights: Sequence[float], keys: Sequence[int], period: float, keys_per_period: int) -> tuple[
    tuple[float, ...], tuple[int, ...]
]:  # fmt: skip
    """Heights brought into one period, rising from 0 and each there once, with the keys that play them."""
    placed = []
    for height, key in zip(heights, keys, strict=True):
        periods = int(np.floor((height + _SAME) / period))
        placed.append((max(0.0, height - periods * period), key - periods * keys_per_period))
    placed.sort()
    kept = [one for i, one in enumerate(placed) if i == 0 or one[0] - placed[i - 1][0] > _SAME]
    return tuple(height for height, _ in kept), tuple(key for _, key in kept)
