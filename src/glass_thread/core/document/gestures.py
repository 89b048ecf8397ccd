"""What a user asks of a note."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace

import numpy as np

from ..analysis.contour import ContourParts, split_contour
from ..signal.types import HOP_S, Contour, Floats, Note, Rounding
from ..signal.units import HIGHEST_MIDI, LOWEST_MIDI
from ..song.keys import KeyMap

DEFAULT_GLIDE_MS = 70.0


@dataclass(frozen=True)
class Stroke:
    """Pitch drawn by hand.

    Attributes
    ----------
    points : tuple of (time in s, MIDI)
        Rising in time, straight between them.
    keep_fine : bool
        Keep the voice's own fine movement and replace only what moves slowly.
    """

    points: tuple[tuple[float, float], ...]
    keep_fine: bool = False


@dataclass(frozen=True)
class Gesture:
    """Everything asked of one note; the defaults leave it as sung.

    Attributes
    ----------
    target_midi : float or None
        Where the centre should be; None means the nearest pitch by `rounding`.
    pull : float
        How far the centre goes to the target, 0 to 1.
    drift, vibrato : float
        Factors on what was sung, 0 to 2 and 0 to 3.
    lean_in, lean_out : float
        Cents added at the start or end, the other end stays.
    glide_ms : float
        Time over which the correction passes into this note from the one before it.
    glide_bend : float
        −1 early to 1 late: where in its time the glide mostly happens.
    level_db : float
        Change of loudness.
    formant_shift : float
        Shift of the vocal tract's resonances in semitones.
    added_extent, added_rate_hz, added_onset_ms : float
        A vibrato put onto the note: ± cents, Hz, and when it starts after the note; no extent, no vibrato.
    added_seed : int
        Fixes the slight irregularity of the added vibrato.
    added_level : float
        Level that goes with the added vibrato, in dB at its turning points.
    hand : tuple of Stroke
        Pitch drawn by hand over parts of the note.
    start_shift_ms, end_shift_ms : float
        By how much the note starts and ends later than sung; where it is sung through, its end is the next one's start.
    """

    target_midi: float | None = None
    rounding: Rounding = "scale"
    pull: float = 0.0
    drift: float = 1.0
    vibrato: float = 1.0
    lean_in: float = 0.0
    lean_out: float = 0.0
    glide_ms: float = DEFAULT_GLIDE_MS
    glide_bend: float = 0.0
    level_db: float = 0.0
    formant_shift: float = 0.0
    added_extent: float = 0.0
    added_rate_hz: float = 5.5
    added_onset_ms: float = 250.0
    added_seed: int = 0
    added_level: float = 0.0
    hand: tuple[Stroke, ...] = ()
    start_shift_ms: float = 0.0
    end_shift_ms: float = 0.0

    @property
    def times_ms(self) -> tuple[float, float]:
        """By how much the note starts and ends later than sung."""
        return self.start_shift_ms, self.end_shift_ms

    @property
    def moves_time(self) -> bool:
        """True when the note starts or ends elsewhere than sung."""
        return any(self.times_ms)

    @property
    def bends_pitch(self) -> bool:
        """True when the pitch will differ from what was sung."""
        moved = (self.pull, self.drift - 1.0, self.vibrato - 1.0, self.lean_in, self.lean_out, self.added_extent)
        return any(moved) or bool(self.hand)

    @property
    def sounds_as_sung(self) -> bool:
        """True when nothing but its place in time is changed."""
        return not self.bends_pitch and self.level_db == 0.0 and self.formant_shift == 0.0

    @property
    def is_as_sung(self) -> bool:
        """True when nothing is changed."""
        return self.sounds_as_sung and not self.moves_time


AS_SUNG = Gesture()

# name: (lowest, highest, name in messages)
RANGES: dict[str, tuple[float, float, str]] = {
    "target_midi": (LOWEST_MIDI, HIGHEST_MIDI, "The target"),
    "pull": (0.0, 1.0, "Pull"),
    "drift": (0.0, 2.0, "Drift"),
    "vibrato": (0.0, 3.0, "Vibrato"),
    "lean_in": (-600.0, 600.0, "Lean in (cents)"),
    "lean_out": (-600.0, 600.0, "Lean out (cents)"),
    "glide_ms": (0.0, 500.0, "Glide (ms)"),
    "glide_bend": (-1.0, 1.0, "Bend"),
    "level_db": (-24.0, 12.0, "Level (dB)"),
    "formant_shift": (-12.0, 12.0, "Formant (semitones)"),
    "added_extent": (0.0, 200.0, "Added vibrato (± cents)"),
    "added_rate_hz": (3.0, 9.0, "Added vibrato rate (Hz)"),
    "added_onset_ms": (0.0, 3000.0, "Added vibrato onset (ms)"),
    "added_level": (0.0, 6.0, "Level with the vibrato (dB)"),
}
MOST_SHIFT_MS = 60_000.0
ROUNDINGS = ("scale", "semitone", "free")
ASPECTS: dict[str, tuple[str, ...]] = {
    "centre": ("target_midi", "pull"),
    "drift": ("drift",),
    "lean": ("lean_in", "lean_out"),
    "vibrato": ("vibrato", "added_extent", "added_rate_hz", "added_onset_ms", "added_seed", "added_level"),
    "glide": ("glide_ms", "glide_bend"),
    "hand_curve": ("hand",),
    "formant": ("formant_shift",),
    "level": ("level_db",),
    "timing": ("start_shift_ms", "end_shift_ms"),
    "start": ("start_shift_ms",),
    "length": (),
}
ASPECTS["all"] = tuple(field.name for field in fields(Gesture))


def target_of(note: Note, gesture: Gesture, keys: KeyMap, neighbours: Sequence[float] = ()) -> float:
    """The target pitch in MIDI: the one set by hand, or the rounded centre."""
    if gesture.target_midi is not None:
        return gesture.target_midi
    return keys.of(note).nearest(note.centre_midi, gesture.rounding, neighbours=neighbours)


def note_frames(note: Note, n_frames: int) -> tuple[int, int]:
    """Half-open frame range of a note on the analysis grid."""
    return round(note.start_s / HOP_S), min(n_frames, round(note.end_s / HOP_S))


def split_note(contour: Contour, level: Floats, note: Note) -> ContourParts:
    """Parts of one note's contour as read (see `as_read`); `level` in dB on the contour's grid."""
    a, b = note_frames(note, len(contour.midi))
    parts = split_contour(contour.midi[a:b], level[a:b])
    if note.centre_span is None:
        return parts
    first = max(0, round(note.centre_span[0] / HOP_S) - a)
    last = min(b - a, max(first + 1, round(note.centre_span[1] / HOP_S) - a))
    under = (parts.centre + parts.drift)[first:last]
    weight = parts.weight[first:last]
    centre = float(np.sum(under * weight) / weight.sum())
    return replace(parts, centre=centre, drift=parts.drift + (parts.centre - centre))


def as_read(contour: Contour, notes: Sequence[Note]) -> Contour:
    """The contour as corrected by hand: read again, or moved by octaves; the same object when nothing was."""
    moved = [note for note in notes if note.octave or note.reading]
    if not moved:
        return contour
    midi = contour.midi.copy()
    for note in moved:
        a, b = note_frames(note, len(midi))
        if note.reading is not None:
            begin = note.reading.first
            first, last = max(a, begin), min(b, begin + len(note.reading.midi))
            again = np.array(note.reading.midi, dtype=np.float64)[first - begin : last - begin]
            midi[first:last] = np.where(np.isfinite(again), again, midi[first:last])
        midi[a:b] += 12.0 * note.octave
    return replace(contour, midi=midi)
