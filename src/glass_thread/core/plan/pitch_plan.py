"""The correction of pitch: tuned minus sung, per note, with glides between notes that are sung through."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from ..analysis.contour import ContourParts
from ..document.gestures import Gesture, note_frames, split_note
from ..document.notes import EditedNote, Notes, current_target
from ..document.time.stretches import Stretch
from ..signal.signal_tools import smoothstep
from ..signal.types import HOP_S, Contour, Floats, Note
from ..song.keys import KeyMap
from .hand_curve import follow_hand


def note_correction(parts: ContourParts, gesture: Gesture, target: float, track_frames: Floats | None = None) -> Floats:
    """Tuned minus sung pitch inside one note, without its hand curve, in semitones, shape (n,).

    `track_frames`, shape (n,), says where the note's frames come to lie when it is stretched: a singer who holds a note
    longer keeps the rate of her vibrato, so it goes on or is cut, and is not slowed or hurried.
    """
    n = len(parts.drift)
    change = np.full(n, gesture.pull * (target - parts.centre))
    if gesture.drift != 1.0:
        change += (gesture.drift - 1.0) * parts.drift
    if track_frames is not None:
        change += gesture.vibrato * at_its_rate(parts.vibrato, track_frames) - parts.vibrato
    elif gesture.vibrato != 1.0:
        change += (gesture.vibrato - 1.0) * parts.vibrato
    if gesture.lean_in or gesture.lean_out:
        along = (np.arange(n) + 0.5) / n
        change += (gesture.lean_in * smoothstep(1.0 - along) + gesture.lean_out * smoothstep(along)) / 100.0
    if gesture.added_extent:
        change += gesture.added_extent / 100.0 * placed_vibrato(n, gesture, track_frames)
    return change


def placed_vibrato(n: int, gesture: Gesture, track_frames: Floats | None) -> Floats:
    """The added vibrato of a note, read at the note's own frames where it is stretched."""
    if track_frames is None:
        return added_vibrato(n, gesture)
    place = track_frames - track_frames[0]
    wave = added_vibrato(round(float(place[-1])) + 1, gesture)
    return np.interp(place, np.arange(len(wave)), wave)


def at_its_rate(vibrato: Floats, track_frames: Floats) -> Floats:
    """A sung vibrato, shape (n,), that keeps its rate in the track; its extent stays with the recording.

    Whole turns are put in or left out, so that it ends as it was sung.
    """
    if len(vibrato) < 3 or not vibrato.any():
        return vibrato
    wave = scipy.signal.hilbert(vibrato)
    turned = np.unwrap(np.angle(wave))
    turned = np.maximum.accumulate(turned)
    more = np.concatenate(([0.0], np.cumsum(np.diff(turned) * (np.diff(track_frames) - 1.0))))
    whole = 2.0 * np.pi * np.round(more[-1] / (2.0 * np.pi))
    if whole == 0.0:
        return vibrato
    return np.abs(wave) * np.cos(np.angle(wave) + more * whole / more[-1])


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


def fill_correction(
    total: Floats,
    heard: Contour,
    read: Contour,
    level_db: Floats,
    ordered: Sequence[EditedNote],
    notes: Notes,
    keys: KeyMap,
    stretches: Sequence[Stretch] = (),
) -> None:
    """Write the correction in semitones of some notes into `total`, shape (n_frames,), which is 0 around them.

    Between two notes sung through, the correction glides with a smooth (C1) curve; towards silence it is held.

    Parameters
    ----------
    heard, read : Contour
        The sung pitch as it is heard (none in voiceless air), and as its notes are read.
    level_db : ndarray, shape (n_frames,)
        Level of the sound, for telling where the notes are heard.
    ordered : sequence of EditedNote
        In order of time; all those of every sung-through stretch that one of them lies in.
    notes, keys
        All notes of the track, and what those round to whose target was never fixed.
    stretches : sequence of Stretch
        What is longer or shorter than sung, near the notes.
    """
    n = len(total)
    held = [_held_otherwise(edited, stretches, n) for edited in ordered]
    bent = [edited.gesture.bends_pitch or frames is not None for edited, frames in zip(ordered, held, strict=True)]
    for i, edited in enumerate(ordered):
        if bent[i]:
            target = current_target(notes, edited, keys) if edited.gesture.pull else 0.0
            a, b = note_frames(edited.note, n)
            parts = split_note(read, level_db, edited.note)
            total[a:b] = note_correction(parts, edited.gesture, target, held[i])
    voiced = np.isfinite(heard.midi)
    for i in range(1, len(ordered)):
        if bent[i - 1] or bent[i]:
            _join(total, voiced, ordered[i - 1].note, ordered[i].note, ordered[i].gesture)
    _hold_to_silence(total, voiced, ordered, bent)
    strokes = [(stroke, note_frames(edited.note, n)) for edited in ordered for stroke in edited.gesture.hand]
    follow_hand(total, heard.midi, strokes)


def _held_otherwise(edited: EditedNote, stretches: Sequence[Stretch], n: int) -> Floats | None:
    """Where the frames of a note with a vibrato come to lie when it is stretched; None when it is not, or has none."""
    if edited.note.vibrato is None and not edited.gesture.added_extent:
        return None
    return frames_in_track(*note_frames(edited.note, n), stretches)


def frames_in_track(first: int, last: int, stretches: Sequence[Stretch]) -> Floats | None:
    """Where frames [first, last) come to lie, counted from the first; None when they are not stretched, or too few."""
    own = [one for one in stretches if one.end_s > first * HOP_S and one.start_s < last * HOP_S]
    if not own or last - first < 3:
        return None
    times = np.arange(first, last) * HOP_S
    added = sum(one.added_s * np.clip((times - one.start_s) / (one.end_s - one.start_s), 0.0, 1.0) for one in own)
    return (times - times[0] + added) / HOP_S


def _join(total: Floats, voiced: np.ndarray, left: Note, right: Note, gesture: Gesture) -> None:
    """Blend the corrections of two notes that are sung through, in place."""
    n = len(total)
    a, end = note_frames(left, n)
    start, b = note_frames(right, n)
    if start - end > 2 or not voiced[end - 1 : start + 1].all():
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


def _hold_to_silence(total: Floats, voiced: np.ndarray, ordered: Sequence[EditedNote], bent: Sequence[bool]) -> None:
    """Carry a note's correction over voiced frames before or after it that belong to no note, in place."""
    n = len(total)
    spans = [note_frames(edited.note, n) for edited in ordered]
    for i, (a, b) in enumerate(spans):
        if not bent[i] or a >= b:
            continue
        reached = spans[i - 1][1] if i else 0
        first = a
        while first > reached and voiced[first - 1]:
            first -= 1
        total[first:a] = total[a]
        limit = spans[i + 1][0] if i + 1 < len(spans) else n
        last = b
        while last < limit and voiced[last]:
            last += 1
        total[b:last] = total[b - 1]
