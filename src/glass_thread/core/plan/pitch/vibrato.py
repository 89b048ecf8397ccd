"""Leans and vibrato that are put onto a note, and sung vibrato that keeps its rate where a note is stretched."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import scipy

from ...document.gestures import Gesture
from ...document.time.stretches import Stretch
from ...signal.signal_tools import smoothstep
from ...signal.types import HOP_S, Floats

_BACK_S = 0.08  # over which a vibrato that was cut or goes on comes back to how the note ends


def frames_in_track(first: int, last: int, stretches: Sequence[Stretch]) -> Floats | None:
    """Where frames [first, last) come to lie, counted from the first; None when they are not stretched, or too few."""
    own = [one for one in stretches if one.end_s > first * HOP_S and one.start_s < last * HOP_S]
    if not own or last - first < 3:
        return None
    times = np.arange(first, last) * HOP_S
    added = sum(one.added_s * np.clip((times - one.start_s) / (one.end_s - one.start_s), 0.0, 1.0) for one in own)
    return (times - times[0] + added) / HOP_S


def put_on(n: int, gesture: Gesture, track_frames: Floats | None) -> Floats:
    """What is put onto a note whatever was sung: leans and an added vibrato, in semitones, shape (n,)."""
    change = np.zeros(n)
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


def at_its_rate(vibrato: Floats, track_frames: Floats, *, whole: bool = False) -> Floats:
    """A sung vibrato, shape (n,), that keeps its rate in the track; its extent stays with the recording.

    In its last moments it comes back to how the note ends.  With `whole`, as in edition 1, whole turns are put in or
    left out instead, which bends the rate a little all along.
    """
    if len(vibrato) < 3 or not vibrato.any():
        return vibrato
    wave = scipy.signal.hilbert(vibrato)
    turned = np.maximum.accumulate(np.unwrap(np.angle(wave)))
    more = np.concatenate(([0.0], np.cumsum(np.diff(turned) * (np.diff(track_frames) - 1.0))))
    if whole:
        turns = 2.0 * np.pi * np.round(more[-1] / (2.0 * np.pi))
        return vibrato if turns == 0.0 else np.abs(wave) * np.cos(np.angle(wave) + more * turns / more[-1])
    kept = np.abs(wave) * np.cos(np.angle(wave) + more)
    left_s = (track_frames[-1] - track_frames) * HOP_S
    return kept + smoothstep(1.0 - left_s / _BACK_S) * (vibrato - kept)


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
