"""What is to be sung: notes, air and voices, with the exact truth that follows from them."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..core.signal.types import AirKind


@dataclass(frozen=True)
class SungNote:
    """One note as it is to be sung; times in seconds, the `midi` is what the song asks for.

    `off` is how far the singer is from it in cents, `drift` in cents per
    second around the middle, `fall` cents downwards at the end, `scoop` cents
    below at the start; `second` adds a second pitch (semitones away) from half way.
    """

    start_s: float
    end_s: float
    midi: float
    vowel: str
    off: float = 0.0
    drift: float = 0.0
    scoop: float = 0.0
    fall: float = 0.0
    second: float = 0.0
    vibrato_hz: float = 5.6
    vibrato_cents: float = 0.0
    vibrato_onset_s: float = 0.3
    glide_s: float = 0.07
    level_db: float = 0.0
    nasal: str = ""


@dataclass(frozen=True)
class SungAir:
    """One unpitched sound: kind for the analysis, `sound` for the synthesis, peak level in dBFS."""

    kind: AirKind
    sound: str
    start_s: float
    end_s: float
    level_db: float


@dataclass(frozen=True)
class SungVoice:
    """Voice colour: formant factor, LF shape `rd`, breath noise in dB, jitter in cents, shimmer in dB; and how far the
    pitch wanders irregularly at rates from 0.7 to 7 Hz, in cents rms."""

    formants: float = 1.14
    rd: float = 1.05
    breath_db: float = -30.0
    jitter_cents: float = 1.6
    flutter_cents: float = 3.0
    shimmer_db: float = 0.15
    wander_cents: float = 0.0


@dataclass(frozen=True)
class Performance:
    """Everything needed to sing: length in seconds, notes and air in time order, voice and seed."""

    duration_s: float
    notes: tuple[SungNote, ...]
    air: tuple[SungAir, ...]
    voice: SungVoice = SungVoice()
    seed: int = 1
    floor_db: float = -78.0

    def in_tune(self) -> Performance:
        """The same performance with every centre, drift and second pitch put right, all else alike."""
        return replace(self, notes=tuple(replace(note, off=0.0, drift=0.0, second=0.0) for note in self.notes))
