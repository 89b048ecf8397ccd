"""The records that analysis, editing and rendering hand to each other."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal, Protocol

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.floating[Any]]
AirKind = Literal["sibilant", "consonant", "breath"]
Rounding = Literal["scale", "semitone", "free"]

HOP_S = 0.005


class Samples(Protocol):
    """One line of samples that is read by slices: an array of shape (n,), or a recording on disk."""

    def __len__(self) -> int: ...
    def __getitem__(self, part: slice, /) -> Floats:
        """Samples of a stretch."""


@dataclass(frozen=True)
class Contour:
    """Pitch over time on a fixed grid.

    Attributes
    ----------
    midi : ndarray, shape (n,)
        MIDI note numbers at A4 = 440 Hz; NaN where unvoiced.
    confidence : ndarray, shape (n,)
        Probability that a voiced frame is right within 50 cents, 0 to 1.
    hop_s : float
        Seconds between frames; frame i is at ``i * hop_s``.
    """

    midi: Floats
    confidence: Floats
    hop_s: float = HOP_S

    @property
    def times(self) -> Floats:
        """Time of each frame in seconds."""
        return np.arange(len(self.midi)) * self.hop_s

    @property
    def voiced(self) -> NDArray[np.bool_]:
        """True where the frame has a pitch."""
        return np.isfinite(self.midi)


@dataclass(frozen=True)
class Vibrato:
    """A quasi-periodic pitch movement: rate in Hz, extent in ± cents, onset in s after the note's start."""

    rate_hz: float
    extent_cents: float
    onset_s: float


@dataclass(frozen=True)
class Reading:
    """A stretch of pitch read again: its first frame, and MIDI numbers on the analysis grid (None unvoiced)."""

    first: int
    midi: tuple[float | None, ...]


@dataclass(frozen=True)
class Note:
    """One sung pitch event; times in seconds in the track's own audio."""

    id: str
    start_s: float
    end_s: float
    centre_midi: float
    drift_cents_per_s: float
    vibrato: Vibrato | None
    level_db: float
    phrase: int
    octave: int = 0
    """Octaves by which the reading of the pitch was moved by hand."""
    centre_span: tuple[float, float] | None = None
    """Seconds of the part that the centre was set on by hand."""
    reading: Reading | None = None
    """The pitch where it was read again with another range."""
    spoken: bool = False
    """Talk, not singing: without flags, and left alone by passes."""


@dataclass(frozen=True)
class AirEvent:
    """An unpitched sound; never pitch-shifted.

    `level_db` and `high_db` are the levels of the whole sound and of what lies above 5 kHz, in dBFS; `voiced` says
    that a pitch sounds along with it (z, v), which then moves with the note.
    """

    id: str
    kind: AirKind
    start_s: float
    end_s: float
    level_db: float
    high_db: float = -120.0
    voiced: bool = False


@dataclass(frozen=True)
class Phrase:
    """A run of notes between rests or breaths."""

    index: int
    start_s: float
    end_s: float


@dataclass(frozen=True)
class KeyCandidate:
    """One possible key with its share of the evidence, 0 to 1."""

    tonic: int
    scale: str
    confidence: float


@dataclass(frozen=True)
class Analysis:
    """Everything found in one track."""

    sample_rate: int
    duration_s: float
    contour: Contour
    notes: tuple[Note, ...]
    air: tuple[AirEvent, ...]
    phrases: tuple[Phrase, ...]
    keys: tuple[KeyCandidate, ...]
    reference_hz: float
    level_db: Floats = field(default_factory=lambda: np.zeros(0))
    polyphonic: bool = False
    high_db: Floats = field(default_factory=lambda: np.zeros(0))
    """Level above 5 kHz in dBFS on the contour's grid."""
    outline: NDArray[np.int8] = field(default_factory=lambda: np.zeros((0, 2), dtype=np.int8))
    """Lowest and highest sample of each frame, full scale ±127, shape (n, 2)."""
    recorded: Analysis | None = None
    """What was found in the recording alone, where another one is heard in places of it."""

    @property
    def as_recorded(self) -> Analysis:
        """What was found in the recording alone."""
        return self.recorded or self
