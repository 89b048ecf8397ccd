"""What a user asks of a note, and the correction to the pitch that follows from it (DESIGN model of a note)."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from .contour import ContourParts, split_contour
from .scales import Key, round_pitch
from .signal_tools import smoothstep
from .types import HOP_S, Contour, Floats, Note, Rounding

DEFAULT_GLIDE_MS = 70.0


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
    level_db : float
        Change of loudness.
    """

    target_midi: float | None = None
    rounding: Rounding = "scale"
    pull: float = 0.0
    drift: float = 1.0
    vibrato: float = 1.0
    lean_in: float = 0.0
    lean_out: float = 0.0
    glide_ms: float = DEFAULT_GLIDE_MS
    level_db: float = 0.0

    @property
    def bends_pitch(self) -> bool:
        """True when the pitch will differ from what was sung."""
        return (
            self.pull != 0.0 or self.drift != 1.0 or self.vibrato != 1.0 or self.lean_in != 0.0 or self.lean_out != 0.0
        )

    @property
    def is_as_sung(self) -> bool:
        """True when nothing about the sound is changed."""
        return not self.bends_pitch and self.level_db == 0.0


AS_SUNG = Gesture()


def target_of(note: Note, gesture: Gesture, key: Key, neighbours: Sequence[float] = ()) -> float:
    """The target pitch in MIDI: the one set by hand, or the rounded centre."""
    if gesture.target_midi is not None:
        return gesture.target_midi
    return round_pitch(note.centre_midi, key, gesture.rounding, neighbours=neighbours)


def note_frames(note: Note, n_frames: int) -> tuple[int, int]:
    """Half-open frame range of a note on the analysis grid."""
    return round(note.start_s / HOP_S), min(n_frames, round(note.end_s / HOP_S))


def note_correction(parts: ContourParts, gesture: Gesture, target: float) -> Floats:
    """Tuned minus sung pitch inside one note, in semitones, shape (n,)."""
    n = len(parts.drift)
    change = np.full(n, gesture.pull * (target - parts.centre))
    if gesture.drift != 1.0:
        change += (gesture.drift - 1.0) * parts.drift
    if gesture.vibrato != 1.0:
        change += (gesture.vibrato - 1.0) * parts.vibrato
    if gesture.lean_in or gesture.lean_out:
        along = (np.arange(n) + 0.5) / n
        change += (gesture.lean_in * smoothstep(1.0 - along) + gesture.lean_out * smoothstep(along)) / 100.0
    return change


def split_note(contour: Contour, level: Floats, note: Note) -> ContourParts:
    """Parts of one note's contour; `level` in dB on the contour's grid."""
    a, b = note_frames(note, len(contour.midi))
    return split_contour(contour.midi[a:b], level[a:b])


def pitch_correction(
    contour: Contour,
    notes: Sequence[Note],
    gestures: Mapping[str, Gesture],
    key: Key,
    split: Callable[[Note], ContourParts],
) -> Floats:
    """Tuned minus sung pitch over the whole track, in semitones, shape (n_frames,); exactly 0 where nothing changes.

    `split` gives a note's contour parts (see `split_note`); callers may remember them.

    Between two notes sung through, the correction glides with a smooth (C1)
    curve; towards silence it is held.
    """
    n = len(contour.midi)
    total = np.zeros(n)
    ordered = sorted(notes, key=lambda note: note.start_s)
    changes: list[Floats | None] = []
    for i, note in enumerate(ordered):
        gesture = gestures.get(note.id, AS_SUNG)
        if not gesture.bends_pitch:
            changes.append(None)
            continue
        around = [other.centre_midi for other in ordered[max(0, i - 1) : i + 2] if other is not note]
        changes.append(note_correction(split(note), gesture, target_of(note, gesture, key, around)))
    for note, change in zip(ordered, changes, strict=True):
        if change is not None:
            a, b = note_frames(note, n)
            total[a:b] = change
    for i in range(1, len(ordered)):
        if changes[i - 1] is not None or changes[i] is not None:
            _join(total, contour, ordered[i - 1], ordered[i], gestures.get(ordered[i].id, AS_SUNG).glide_ms)
    total[~contour.voiced] = 0.0
    return _hold_to_silence(total, contour, ordered, changes)


def _join(total: Floats, contour: Contour, left: Note, right: Note, glide_ms: float) -> None:
    """Blend the corrections of two notes that are sung through, in place."""
    n = len(total)
    a, end = note_frames(left, n)
    start, b = note_frames(right, n)
    if start - end > 2 or not contour.voiced[end - 1 : start + 1].all():
        return
    half = int(min(glide_ms / 2000.0 / HOP_S, (end - a) / 2, (b - start) / 2))
    if half < 1:
        return
    low, high = start - half, start + half
    blend = smoothstep((np.arange(low, high) - low + 0.5) / (high - low))
    before = np.where(np.arange(low, high) < end, total[low:high], total[end - 1])
    after = np.where(np.arange(low, high) >= start, total[low:high], total[start])
    total[low:high] = before + blend * (after - before)


def _hold_to_silence(
    total: Floats, contour: Contour, notes: Sequence[Note], changes: Sequence[Floats | None]
) -> Floats:
    """Carry a note's correction over voiced frames before or after it that belong to no note."""
    n = len(total)
    owned = np.zeros(n, dtype=bool)
    for note in notes:
        a, b = note_frames(note, n)
        owned[a:b] = True
    for note, change in zip(notes, changes, strict=True):
        if change is None:
            continue
        a, b = note_frames(note, n)
        i = a - 1
        while i >= 0 and contour.voiced[i] and not owned[i]:
            total[i] = total[a]
            i -= 1
        i = b
        while i < n and contour.voiced[i] and not owned[i]:
            total[i] = total[b - 1]
            i += 1
    return total


LEVEL_RAMP_S = 0.03


def level_change(notes: Sequence[Note], gestures: Mapping[str, Gesture], n_frames: int) -> Floats:
    """Level change in dB on the analysis grid, shape (n_frames,); exactly 0 outside notes whose level is changed.

    Ramps lie inside the note, over at most 30 ms at each edge.
    """
    total = np.zeros(n_frames)
    for note in notes:
        wanted = gestures.get(note.id, AS_SUNG).level_db
        if wanted == 0.0:
            continue
        a, b = note_frames(note, n_frames)
        ramp = max(1.0, min(LEVEL_RAMP_S / HOP_S, (b - a) / 3))
        position = np.arange(b - a)
        total[a:b] = wanted * smoothstep(position / ramp) * smoothstep((b - a - 1 - position) / ramp)
    return total
