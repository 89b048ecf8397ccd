"""A tuning: which pitches a song allows, the nearest and the next of them, and what they are called."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from ..signal.errors import ParameterError
from ..signal.types import Floats, Rounding
from ..signal.units import HIGHEST_MIDI, LOWEST_MIDI, key_name, parse_name, parse_pitch, pitch_label, signed_cents
from ..signal.validation import in_range
from .spelling import spelled_with_flats
from .temperaments import OCTAVE, Steps

FREE_STEP = 0.1  # semitones that a free note moves by
_EQUALLY_NEAR = 0.2  # semitones by which the second nearest pitch may be further off and still be taken; the smaller
# the steps are, the more exactly one is meant
_NEAREST_TIE = 1e-9
_STEP_TEXT = re.compile(r"^\s*(\d{1,3})\s*[°*d]\s*([-−]?\d)\s*(?:([+\-−])\s*(\d+(?:\.\d+)?)\s*(?:c|ct|cents?)?)?\s*$")


class PitchLine(NamedTuple):
    """One pitch of a tuning.

    `midi` at A4 = 440 Hz; `name` as notes on it are called; `near` what the nearest equal-tempered note is called where
    that says more than the name; `degree` counted from 1 among the allowed ones, 0 where none is told; `allowed` by the
    scale; `step` of the period, from 0.
    """

    midi: float
    name: str
    near: str
    degree: int
    allowed: bool
    step: int


@dataclass(frozen=True)
class Tuning:
    """Steps, and those of them that the key allows.

    Attributes
    ----------
    tonic : int
        Pitch class, 0 (C) to 11.
    scale : str
        Name of the scale, or "custom".
    classes : tuple of int
        The steps of a period that Scale rounding allows; Semitone rounding allows every step.
    steps : Steps
        Every pitch there is.
    offset : float
        Semitones by which the reference lies above A4 = 440 Hz.
    """

    tonic: int
    scale: str
    classes: tuple[int, ...]
    steps: Steps
    offset: float = 0.0

    @cached_property
    def flats(self) -> bool:
        """True when the key is spelled with flats."""
        return spelled_with_flats(self.tonic, self.scale)

    @cached_property
    def _allowed(self) -> tuple[Floats, np.ndarray]:
        """Pitches of the scale, and which of all pitches they are."""
        pitches, places = self.steps.places
        of_scale = np.isin(places[:, 0], self.classes)
        return pitches[of_scale], of_scale

    def pitches(self, rounding: Rounding) -> Floats:
        """All that a rounding may choose, in MIDI at A4 = 440 Hz, rising, shape (n,)."""
        return self._allowed[0] if rounding == "scale" else self.steps.places[0]

    def nearest(self, midi: float, rounding: Rounding, *, neighbours: Sequence[float] = ()) -> float:
        """The allowed pitch nearest to `midi`; of two, the higher.

        Of two scale notes that are equally near (within 10 cents; less where steps are small), the one nearer to the
        melody's `neighbours` wins.
        """
        if rounding == "free":
            return float(midi)
        pitches = self.pitches(rounding)
        above = int(np.searchsorted(pitches, midi))
        near = sorted(pitches[max(0, above - 1) : above + 1], key=lambda pitch: (abs(pitch - midi), -pitch))
        best = near[0]
        if rounding == "scale" and len(neighbours) and len(near) > 1:
            second = near[1]
            if abs(second - midi) - abs(best - midi) < _EQUALLY_NEAR * min(1.0, (second - best) ** 2):
                around = np.asarray(neighbours, dtype=np.float64)
                if np.abs(around - second).mean() < np.abs(around - best).mean() - _NEAREST_TIE:
                    best = second
        return float(best)

    def all_nearest(self, midi: Floats, rounding: Rounding) -> Floats:
        """The allowed pitches nearest to many, shape (n,); of two, the lower."""
        if rounding == "free":
            return midi
        pitches = self.pitches(rounding)
        above = np.clip(np.searchsorted(pitches, midi), 1, len(pitches) - 1)
        return np.where(pitches[above] - midi < midi - pitches[above - 1], pitches[above], pitches[above - 1])

    def stepped(self, midi: float, count: int, rounding: Rounding) -> float:
        """The pitch `count` allowed ones above (or below) `midi`; the first step lands on the nearest one beyond."""
        if rounding == "free":
            return midi + FREE_STEP * count
        pitches = self.pitches(rounding)
        beyond = pitches[pitches > midi + 0.005] if count > 0 else pitches[pitches < midi - 0.005][::-1]
        return float(beyond[min(abs(count), len(beyond)) - 1]) if len(beyond) else midi

    def _place(self, midi: float) -> int:
        """Which of all pitches is nearest."""
        pitches = self.steps.places[0]
        above = int(np.clip(np.searchsorted(pitches, midi), 1, len(pitches) - 1))
        return above if pitches[above] - midi <= midi - pitches[above - 1] else above - 1

    def key_of(self, midi: float) -> int:
        """The key of a MIDI keyboard that plays the pitch nearest to `midi`."""
        return self.steps.key_at(self._place(midi))

    def name(self, midi: float) -> str:
        """The name of the nearest pitch: ``F♯4``, or step and octave, ``7°4``, where there are not twelve to the
        octave."""
        return self._name(self._place(midi))

    def _name(self, place: int) -> str:
        if self.steps.twelve:
            return key_name(self.steps.key_at(place), flats=self.flats)
        step, period = self.steps.places[1][place]
        octave = int(period) + self._first_octave
        return f"{step + 1}°{octave if octave >= 0 else f'−{-octave}'}"

    @property
    def _first_octave(self) -> int:
        """The number of the octave in which period 0 begins."""
        return int(np.floor(self.steps.base_midi + 0.5)) // OCTAVE - 1

    def label(self, midi: float) -> str:
        """Name with signed cents, for example ``F♯4 −12``."""
        place = self._place(midi)
        return self._name(place) + signed_cents(midi - float(self.steps.places[0][place]))

    @cached_property
    def lines(self) -> list[PitchLine]:
        """All pitches from C−1 to G9, rising."""
        pitches, places = self.steps.places
        degrees = self._degrees()
        allowed = self._allowed[1]
        return [
            PitchLine(float(pitches[i]), self._name(i), self._near(float(pitches[i])),
                      degrees.get(int(places[i, 0]), 0), bool(allowed[i]), int(places[i, 0]))
            for i in np.flatnonzero((pitches >= LOWEST_MIDI) & (pitches <= HIGHEST_MIDI)).tolist()
        ]  # fmt: skip

    def _near(self, midi: float) -> str:
        return "" if self.steps.twelve else pitch_label(midi - self.offset, flats=self.flats)

    def _degrees(self) -> dict[int, int]:
        """Degree of each allowed step, from the tonic; none where no key is chosen."""
        if not self.steps.twelve:
            return {step: i for i, step in enumerate(self.classes, 1)}
        if self.scale == "chromatic":
            return {}
        upwards = sorted(self.classes, key=lambda step: (step - self.tonic) % OCTAVE)
        return {step: i for i, step in enumerate(upwards, 1)}

    def typed(self, text: str) -> float:
        """The MIDI pitch of what a user types: a name, ``7°4`` or ``7d4``, with cents or without, a number, hertz.

        Raises
        ------
        ParameterError
            If it is none of these or lies outside what is known.
        """
        match = _STEP_TEXT.match(text)
        midi = self._typed_step(text.strip(), match) if match and not self.steps.twelve else self._typed_name(text)
        return in_range(midi, LOWEST_MIDI, HIGHEST_MIDI, "The target")

    def _typed_step(self, shown: str, match: re.Match[str]) -> float:
        step, octave = int(match[1]) - 1, int(match[2].replace("−", "-"))
        if not 0 <= step < len(self.steps.heights):
            raise ParameterError(f"“{shown}” is not a pitch: this tuning has steps 1 to {len(self.steps.heights)}.")
        cents = float(match[4]) * (1 if match[3] == "+" else -1) if match[4] else 0.0
        period = octave - self._first_octave
        return self.steps.base_midi + period * self.steps.period + self.steps.heights[step] + cents / 100.0

    def _typed_name(self, text: str) -> float:
        midi = parse_pitch(text)
        if text.lower().rstrip().endswith("hz"):
            return midi
        named = parse_name(text)
        pitch = self.steps.pitch_of(named[0]) if named and self.steps.twelve else None
        return midi + self.offset if named is None or pitch is None else pitch + midi - named[0]
