"""What a user asks of a note, and the correction to the pitch that follows from it (DESIGN model of a note)."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..analysis.contour import ContourParts, split_contour
from ..plan.hand_curve import Stroke, follow_hand
from ..signal.signal_tools import smoothstep
from ..signal.types import HOP_S, Contour, Floats, Note, Rounding
from .scales import Key, round_pitch

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

    @property
    def bends_pitch(self) -> bool:
        """True when the pitch will differ from what was sung."""
        moved = (self.pull, self.drift - 1.0, self.vibrato - 1.0, self.lean_in, self.lean_out, self.added_extent)
        return any(moved) or bool(self.hand)

    @property
    def is_as_sung(self) -> bool:
        """True when nothing about the sound is changed."""
        return not self.bends_pitch and self.level_db == 0.0 and self.formant_shift == 0.0


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
    """Tuned minus sung pitch inside one note, without its hand curve, in semitones, shape (n,)."""
    n = len(parts.drift)
    change = np.full(n, gesture.pull * (target - parts.centre))
    if gesture.drift != 1.0:
        change += (gesture.drift - 1.0) * parts.drift
    if gesture.vibrato != 1.0:
        change += (gesture.vibrato - 1.0) * parts.vibrato
    if gesture.lean_in or gesture.lean_out:
        along = (np.arange(n) + 0.5) / n
        change += (gesture.lean_in * smoothstep(1.0 - along) + gesture.lean_out * smoothstep(along)) / 100.0
    if gesture.added_extent:
        change += gesture.added_extent / 100.0 * added_vibrato(n, gesture)
    return change


def added_vibrato(n: int, gesture: Gesture) -> Floats:
    """Wave between −1 and 1 over `n` frames of a note, with gentle ends and a slight irregularity from its seed.

    The mean rate and extent are those asked for. Singers' rates vary by a few percent within a tone
    (E. Prame, "Measurements of the vibrato rate of ten singers", J. Acoust. Soc. Am. 96, 1994, from memory).
    """
    rng = np.random.default_rng(gesture.added_seed)
    time = np.arange(n) * HOP_S - gesture.added_onset_ms / 1000.0
    on = time >= 0.0
    if on.sum() < 8:
        return np.zeros(n)
    knots = np.linspace(0.0, time[-1], max(4, int(time[-1] * 2.0)))
    rate = np.interp(time[on], knots, rng.standard_normal(len(knots))) * 0.025
    swell = np.interp(time[on], knots, rng.standard_normal(len(knots))) * 0.06
    phase = 2.0 * np.pi * np.cumsum(gesture.added_rate_hz * (1.0 + rate - rate.mean())) * HOP_S
    length = time[-1] + HOP_S
    fade = smoothstep(time[on] / min(0.25, length / 3)) * smoothstep((length - time[on]) / min(0.15, length / 4))
    wave = np.zeros(n)
    wave[on] = fade * (1.0 + swell - swell.mean()) * np.sin(phase)
    return wave


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
            _join(total, contour, ordered[i - 1], ordered[i], gestures.get(ordered[i].id, AS_SUNG))
    total = _hold_to_silence(total, contour, ordered, changes)
    follow_hand(total, contour, [stroke for note in ordered for stroke in gestures.get(note.id, AS_SUNG).hand])
    total[~contour.voiced] = 0.0
    return total


def _join(total: Floats, contour: Contour, left: Note, right: Note, gesture: Gesture) -> None:
    """Blend the corrections of two notes that are sung through, in place."""
    n = len(total)
    a, end = note_frames(left, n)
    start, b = note_frames(right, n)
    if start - end > 2 or not contour.voiced[end - 1 : start + 1].all():
        return
    half = int(min(gesture.glide_ms / 2000.0 / HOP_S, (end - a) / 2, (b - start) / 2))
    if half < 1:
        return
    low, high = start - half, start + half
    along = (np.arange(low, high) - low + 0.5) / (high - low)
    blend = smoothstep(along ** (2.0 ** (0.9 * gesture.glide_bend)))
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
