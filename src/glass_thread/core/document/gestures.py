"""What a user asks of a note."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from functools import lru_cache
from typing import Any

import numpy as np

from ..analysis.notes.contour import ContourParts, split_contour
from ..analysis.notes.note_parts import NoteParts, note_parts
from ..signal.types import HOP_S, Contour, Floats, Note, Rounding
from ..signal.units import HIGHEST_MIDI, LOWEST_MIDI
from ..song.keys import KeyMap

USUAL_GLIDE_MS = 70.0  # where a glide that is as sung is made longer or shorter from; what edition 1 had in its place
EDITION = 2


@dataclass(frozen=True)
class Stroke:
    """Pitch drawn by hand.

    Attributes
    ----------
    points : tuple of (time in s, MIDI)
        Rising in time, straight between them.
    keep_fine : bool
        Keep the voice's own fine movement and replace only what moves slowly.
    as_sung : bool
        Nothing is drawn: the voice is as it was sung over the points' time, whatever else is asked of the note.
    """

    points: tuple[tuple[float, float], ...]
    keep_fine: bool = False
    as_sung: bool = False


@dataclass(frozen=True)
class Gesture:
    """Everything asked of one note; the defaults leave it as sung.

    Attributes
    ----------
    target_midi : float or None
        Where the centre should be; None means the nearest pitch by `rounding`.
    pull : float
        How far the centre goes to the target, 0 to 1.
    within_cents : float
        With more than 0 the centre is pulled only to within so many cents of the target.
    drift, vibrato : float
        Factors on what was sung, 0 to 2 and 0 to 3.
    movement : float
        Factor on drift and vibrato together, 0 to 2.
    scoop, fall : float
        Factors on the way in and the way out, 0 to 2.
    lean_in, lean_out : float
        Cents added at the start or end, the other end stays.
    glide_ms : float or None
        Time that 15 to 85 % of the way into this note from the one before it takes; None is as sung.
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
    candidates : tuple of float
        Two targets in MIDI between which an ear has not chosen yet.
    edition : int
        What the values act on.  In edition 1, of release 0.1, drift and vibrato were what a detector fitted, and a
        glide was the time over which the correction passed; what was asked then keeps sounding so
        (`core/plan/pitch/fitted.py`) until one of these values is set anew.
    """

    target_midi: float | None = None
    rounding: Rounding = "scale"
    pull: float = 0.0
    within_cents: float = 0.0
    drift: float = 1.0
    vibrato: float = 1.0
    movement: float = 1.0
    scoop: float = 1.0
    fall: float = 1.0
    lean_in: float = 0.0
    lean_out: float = 0.0
    glide_ms: float | None = None
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
    candidates: tuple[float, ...] = ()
    edition: int = EDITION

    @property
    def drift_share(self) -> float:
        """What is left of the drift."""
        return self.drift * self.movement

    @property
    def vibrato_share(self) -> float:
        """What is left of the sung vibrato."""
        return self.vibrato * self.movement

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
        shares = (self.drift, self.vibrato, self.movement, self.scoop, self.fall)
        moved = (self.pull, self.lean_in, self.lean_out, self.added_extent, *(share - 1.0 for share in shares))
        return any(moved) or bool(self.hand)

    @property
    def glides(self) -> bool:
        """True when the way into the note is asked to be another than sung, even where nothing else bends."""
        return self.glide_ms is not None and self.edition >= EDITION

    @property
    def renewed(self) -> Gesture:
        """The same values in the present edition."""
        if self.edition >= EDITION:
            return self
        return replace(self, edition=EDITION, glide_ms=None if self.glide_ms == USUAL_GLIDE_MS else self.glide_ms)

    @property
    def sounds_as_sung(self) -> bool:
        """True when nothing but its place in time is changed."""
        quiet = self.level_db == 0.0 and self.formant_shift == 0.0
        return quiet and not self.bends_pitch and not self.glides

    @property
    def is_as_sung(self) -> bool:
        """True when nothing is changed."""
        return self.sounds_as_sung and not self.moves_time


AS_SUNG = Gesture()

# name: (lowest, highest, name in messages)
RANGES: dict[str, tuple[float, float, str]] = {
    "target_midi": (LOWEST_MIDI, HIGHEST_MIDI, "The target"),
    "pull": (0.0, 1.0, "Pull"),
    "within_cents": (0.0, 100.0, "To within (cents)"),
    "drift": (0.0, 2.0, "Drift"),
    "vibrato": (0.0, 3.0, "Vibrato"),
    "movement": (0.0, 2.0, "Movement"),
    "scoop": (0.0, 2.0, "Scoop"),
    "fall": (0.0, 2.0, "Fall"),
    "lean_in": (-600.0, 600.0, "Lean in (cents)"),
    "lean_out": (-600.0, 600.0, "Lean out (cents)"),
    "glide_ms": (10.0, 400.0, "Glide (ms)"),
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
    "centre": ("target_midi", "pull", "within_cents", "candidates"),
    "within": ("within_cents",),
    "movement": ("movement",),
    "drift": ("drift",),
    "scoop": ("scoop",),
    "fall": ("fall",),
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
AS_SUNG_ALLOWED = ("glide_ms",)  # values that None sets to as sung
ON_MOVEMENT = ("drift", "vibrato", "movement", "scoop", "fall", "glide_ms", "glide_bend")  # another thing by edition
ASPECTS["all"] = tuple(field.name for field in fields(Gesture))


def target_of(note: Note, gesture: Gesture, keys: KeyMap, neighbours: Sequence[float] = ()) -> float:
    """The target pitch in MIDI: the one set by hand, or the rounded centre."""
    if gesture.target_midi is not None:
        return gesture.target_midi
    return keys.of(note).nearest(note.centre_midi, gesture.rounding, neighbours=neighbours)


def with_values(gesture: Gesture, **values: Any) -> Gesture:
    """A gesture with other values; an earlier edition is renewed when a value is set that meant another thing."""
    return replace(gesture.renewed if any(name in ON_MOVEMENT for name in values) else gesture, **values)


def shift_of(centre: float, gesture: Gesture, target: float) -> float:
    """By how many semitones a note heard at `centre` is moved, to its target or within some cents of it; in MIDI."""
    near = gesture.within_cents / 100.0
    goal = min(max(centre, target - near), target + near)
    return gesture.pull * (goal - centre)


def note_frames(note: Note, n_frames: int) -> tuple[int, int]:
    """Half-open frame range of a note on the analysis grid."""
    return round(note.start_s / HOP_S), min(n_frames, round(note.end_s / HOP_S))


def parts_of(contour: Contour, note: Note) -> NoteParts:
    """What the faders of a note act on, of the contour as read (see `as_read`)."""
    a, b = note_frames(note, len(contour.midi))
    return _known_parts(np.asarray(contour.midi[a:b], dtype=np.float64).tobytes(), note.centre_midi)


@lru_cache(maxsize=4096)  # notes of an hour, 25 MB: value after value is tried on the same ones
def _known_parts(midi: bytes, centre: float) -> NoteParts:
    return note_parts(np.frombuffer(midi), centre)


def split_note(contour: Contour, level: Floats, note: Note) -> ContourParts:
    """Parts of one note's contour as they are fitted, for telling them; `level` in dB on the contour's grid."""
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
