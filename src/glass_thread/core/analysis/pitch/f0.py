"""Fundamental frequency of a single voice.

Candidates come from a normalised cross-correlation whose window grows with
the lag (the normalised form of the difference function of de Cheveigné and
Kawahara [1]_), the path through them from dynamic programming (as in [2]_),
and the value at each frame from the instantaneous frequencies of the lowest
harmonics around the path.

References
----------
.. [1] A. de Cheveigné, H. Kawahara, "YIN, a fundamental frequency estimator
   for speech and music", J. Acoust. Soc. Am. 111, 2002.
.. [2] M. Mauch, S. Dixon, "pYIN: a fundamental frequency estimator using
   probabilistic threshold distributions", ICASSP 2014.
"""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Callable

import numba
import numpy as np
import scipy
import soxr
from numpy.typing import NDArray

from ...signal.signal_tools import fill_gaps, frame_rms, local_polynomial, moving_average, runs, smoothstep
from ...signal.types import HOP_S, Contour, Floats, Samples
from ...signal.units import hz_to_midi
from ...signal.validation import in_range
from ..hum import notches
from .confidence import confidence_of
from .growl import raise_growled
from .harmonic_frequency import HARMONICS, refine_by_harmonics
from .octaves import settle_octaves, within_reach

PART_S, OVERLAP_S, CUT_REACH_S = 900.0, 3.0, 8.0  # of long recordings
_BLOCK_S = 30
COARSE_RATE = 8_000
COARSE_TOP_HZ = 1_800.0
FINE_RATE = 16_000
MIN_HZ, MAX_HZ = 50.0, 1200.0
NARROWEST = 1.5  # highest over lowest pitch searched, at least
N_CANDIDATES = 8
TAPS, PEAK_STEPS = 10, 13
OCTAVE_COST = 0.035  # per octave of lag, so that a period wins over its multiples
VOICING_THRESHOLD = 0.55
FAINT_THRESHOLD, FAINT_S, FAINT_REACH = 0.4, 0.08, 0.25  # octaves beyond what is sung clearly
FAINT_WINDOW_S, FAINT_SHARE = 0.02, 0.2  # of the amplitude of what is sung loud
JUMP_COST = 0.9  # per octave between neighbouring frames
SWITCH_COST = 0.30  # voiced to unvoiced and back
MIN_VOICED_FRAMES = 6
NOISY, NOISY_SPAN = ((9, 0.97), (17, 0.93)), 0.08  # frames, and the correlation below which so many are joined
FIRST_HARMONICS = 8
LEASH_OCTAVES = 0.06
CALM_SLOPE, FAST_SLOPE = 15.0, 60.0  # semitones per second
EDGE_FRAMES = 3
EDGE_LEAP = 0.6  # semitones in 5 ms


def _sinc_kernel() -> Floats:
    """Windowed-sinc taps, shape (PEAK_STEPS, TAPS), for the correlation between its samples."""
    shift = (np.arange(PEAK_STEPS) - PEAK_STEPS // 2)[:, None] / (PEAK_STEPS - 1) * 1.5
    distance = np.arange(-TAPS // 2 + 1, TAPS // 2 + 1)[None] - shift
    window = np.cos(np.pi * np.clip(distance / (TAPS + 2), -0.5, 0.5)) ** 2
    taps = np.sinc(distance) * window
    return taps / taps.sum(axis=1, keepdims=True)


@numba.njit(cache=True, nogil=True, fastmath=True)
def _sharp_peak(row, j, kernel):  # pragma: no cover - compiled
    """Shift and height of a peak between the samples of the correlation."""
    steps, taps = kernel.shape
    n = len(row)
    values = np.empty(steps)
    best = 0
    for s in range(steps):
        total = 0.0
        for t in range(taps):
            total += kernel[s, t] * row[min(abs(j + t - taps // 2 + 1), n - 1)]
        values[s] = total
        if total > values[best]:
            best = s
    unit = 1.5 / (steps - 1)
    shift = (best - steps // 2) * unit
    if 0 < best < steps - 1:
        curve = values[best - 1] - 2 * values[best] + values[best + 1]
        if curve < -1e-12:
            shift += 0.5 * (values[best - 1] - values[best + 1]) / curve * unit
    return shift, values[best]


@numba.njit(cache=True, nogil=True, fastmath=True)
def _candidates(x, centres, min_lag, max_lag, floor_energy, kernel, lags, scores):  # pragma: no cover - compiled
    """Fill lags and scores, shape (n_frames, N_CANDIDATES), with the peaks of the correlation."""
    n = len(x)
    energy = np.zeros(n + 1)
    for i in range(n):
        energy[i + 1] = energy[i] + x[i] * x[i]
    first_lag = 1
    margin = max(1, int(min_lag) - 1)
    width = max_lag - first_lag + 1 + TAPS
    row = np.zeros(width)
    for f in range(len(centres)):
        for j in range(width):
            lag = first_lag + j
            w = max(80, (5 * lag) // 4)
            a = centres[f] - (lag + w) // 2
            if a < 0 or a + lag + w > n:
                row[j] = 0.0
                continue
            total = np.float32(0.0)
            for i in range(w):
                total += x[a + i] * x[a + lag + i]
            e1 = energy[a + w] - energy[a]
            e2 = energy[a + lag + w] - energy[a + lag]
            row[j] = total / math.sqrt((e1 + floor_energy * w) * (e2 + floor_energy * w))
        count = 0
        for j in range(margin, width - 1):
            if row[j] > 0.25 and row[j] >= row[j - 1] and row[j] > row[j + 1]:
                shift, height = _sharp_peak(row, j, kernel)
                lag_here = first_lag + j + shift
                if lag_here < min_lag:
                    continue
                slot = count
                if count == N_CANDIDATES:
                    slot = 0
                    for c in range(1, N_CANDIDATES):
                        if scores[f, c] < scores[f, slot]:
                            slot = c
                    if scores[f, slot] >= height - OCTAVE_COST * math.log2(lag_here / min_lag):
                        continue
                else:
                    count += 1
                lags[f, slot] = lag_here
                scores[f, slot] = height - OCTAVE_COST * math.log2(lag_here / min_lag)


@numba.njit(cache=True, nogil=True)
def _best_path(log_lags, scores, threshold):  # pragma: no cover - compiled
    """Candidate index per frame, or -1 where unvoiced, by dynamic programming (Viterbi)."""
    n, m = scores.shape
    states = m + 1
    cost = np.zeros(states)
    back = np.zeros((n, states), np.int16)
    for f in range(n):
        best_from = np.zeros(states)
        for s in range(states):
            best = 1e18
            arg = 0
            for p in range(states):
                if f == 0:
                    c = 0.0
                elif p == m or s == m:
                    c = cost[p] + (SWITCH_COST if p != s else 0.0)
                elif scores[f - 1, p] <= 0.0:
                    continue
                else:
                    c = cost[p] + JUMP_COST * min(abs(log_lags[f, s] - log_lags[f - 1, p]), 1.5)
                if c < best:
                    best = c
                    arg = p
            if s == m:
                best_from[s] = best + (1.0 - threshold)
            elif scores[f, s] <= 0.0:
                best_from[s] = 1e17
            else:
                best_from[s] = best + (1.0 - scores[f, s])
            back[f, s] = arg
        cost = best_from
    path = np.zeros(n, np.int16)
    state = np.argmin(cost)
    for f in range(n - 1, -1, -1):
        path[f] = state if state < m else -1
        state = back[f, state]
    return path


def _prepare(
    audio: Samples, sample_rate: int, begin: int, end: int, hum_hz: tuple[float, ...]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Samples [begin, end) at both rates, without what lies outside the voice; read and filtered block by block."""
    steady = np.concatenate(
        (scipy.signal.butter(2, 40.0, "high", fs=FINE_RATE, output="sos"), notches(hum_hz, FINE_RATE))
    )
    low = scipy.signal.butter(2, COARSE_TOP_HZ, "low", fs=COARSE_RATE, output="sos")
    state, low_state = np.zeros((len(steady), 2)), np.zeros((1, 2))
    to_fine = _resampler(sample_rate, FINE_RATE)
    to_coarse = _resampler(FINE_RATE, COARSE_RATE)
    fine, coarse = [], []
    step = _BLOCK_S * sample_rate
    for first in range(begin, end, step):
        last = min(first + step, end)
        block = to_fine(np.ascontiguousarray(audio[first:last], dtype=np.float32), last == end)
        block, state = scipy.signal.sosfilt(steady, block, zi=state)
        slow, low_state = scipy.signal.sosfilt(low, to_coarse(block.astype(np.float32), last == end), zi=low_state)
        fine.append(block.astype(np.float32))
        coarse.append(slow.astype(np.float32))  # strong upper harmonics make the correlation too narrow
    return np.concatenate(fine), np.concatenate(coarse)


def _resampler(from_rate: int, to_rate: int) -> Callable[[NDArray[np.float32], bool], NDArray[np.float32]]:
    """Takes block after block; the second argument tells the last one."""
    if from_rate == to_rate:
        return lambda block, _last: block
    stream = soxr.ResampleStream(from_rate, to_rate, 1, dtype="float32", quality="HQ")
    return lambda block, last: stream.resample_chunk(block, last=last)


def track_f0(
    audio: Samples, sample_rate: int, *, low_hz: float = MIN_HZ, high_hz: float = MAX_HZ, hum_hz: tuple[float, ...] = ()
) -> Contour:
    """Track the pitch of one voice on a 5 ms grid.

    A long recording is tracked in parts that overlap and meet where it is quietest, so that memory stays bounded.

    Parameters
    ----------
    audio : ndarray or anything read by slices alike, shape (n,)
        One channel, full scale ±1.
    sample_rate : int
        Hertz.
    low_hz, high_hz : float
        The range searched, within 50 to 1200 Hz.
    hum_hz : tuple of float
        Frequencies of steady tones that are not the voice, see `hum`.

    Returns
    -------
    Contour
        MIDI note numbers at A4 = 440 Hz, NaN where unvoiced, and per frame
        the probability that a voiced value is right within 50 cents.
    """
    low = in_range(low_hz, MIN_HZ, MAX_HZ / NARROWEST, "The lowest pitch (Hz)")
    high = in_range(high_hz, low * NARROWEST, MAX_HZ, "The highest pitch (Hz)")
    n_frames = int(len(audio) / sample_rate / HOP_S) + 1
    track = functools.partial(_track_part, audio, sample_rate, low=low, high=high, hum_hz=hum_hz)
    if n_frames * HOP_S <= 1.5 * PART_S:
        return track(0, n_frames)
    cuts = [0, *_part_cuts(audio, sample_rate, n_frames), n_frames]
    overlap = round(OVERLAP_S / HOP_S)
    midi, confidence = np.empty(n_frames), np.empty(n_frames)
    for a, b in itertools.pairwise(cuts):
        first, last = max(0, a - overlap), min(n_frames, b + overlap)
        part = track(first, last)
        midi[a:b] = part.midi[a - first : b - first]
        confidence[a:b] = part.confidence[a - first : b - first]
    return Contour(midi, confidence)


def _part_cuts(audio: Samples, sample_rate: int, n_frames: int) -> list[int]:
    """Frames at which parts meet: the quietest place near each multiple of their length."""
    cuts = []
    for k in range(1, int(n_frames * HOP_S / PART_S - 0.5) + 1):
        times = k * PART_S + np.arange(-CUT_REACH_S, CUT_REACH_S, HOP_S)
        level = frame_rms(audio, sample_rate, times, 0.3)
        cuts.append(round(float(times[int(np.argmin(level))]) / HOP_S))
    return cuts


def _track_part(
    audio: Samples, sample_rate: int, first: int, last: int, *, low: float, high: float, hum_hz: tuple[float, ...]
) -> Contour:
    """The contour of frames [first, last), from the samples between them."""
    n_frames = last - first
    begin, end = round(first * HOP_S * sample_rate), min(len(audio), round(last * HOP_S * sample_rate))
    fine, coarse = _prepare(audio, sample_rate, begin, end, hum_hz)
    pad = int(COARSE_RATE / low * 1.3) + 120
    padded = np.pad(coarse, pad)
    centres = np.round(np.arange(n_frames) * HOP_S * COARSE_RATE).astype(np.int64) + pad
    lags = np.ones((n_frames, N_CANDIDATES))
    scores = np.zeros((n_frames, N_CANDIDATES))
    peak = float(np.max(np.abs(coarse), initial=0.0))
    floor = (max(peak, 1e-4) * 3e-4) ** 2
    max_lag = int(np.ceil(COARSE_RATE / low)) + 1
    _candidates(padded, centres, COARSE_RATE / high * 0.98, max_lag, floor, _sinc_kernel(), lags, scores)
    return _followed(fine, lags, scores)


def _followed(fine: NDArray[np.float32], lags: Floats, scores: Floats) -> Contour:
    """The best path through the candidates, refined by the harmonics of `fine`."""
    n_frames = len(lags)
    row = np.arange(n_frames)
    path = _best_path(np.log2(lags), scores, VOICING_THRESHOLD)
    scores = within_reach(path, lags, scores)
    path = _best_path(np.log2(lags), scores, VOICING_THRESHOLD)
    path = _with_the_faint(path, np.log2(lags), scores, frame_rms(fine, FINE_RATE, row * HOP_S, FAINT_WINDOW_S))
    index = np.maximum(path, 0)
    hz = settle_octaves(np.where(path >= 0, COARSE_RATE / lags[row, index], 0.0), COARSE_RATE / lags, scores)
    hz = raise_growled(fine, FINE_RATE, hz)
    voiced = hz > 0
    for a, b in runs(voiced):
        if b - a < MIN_VOICED_FRAMES:
            voiced[a:b] = False
    hz = np.where(voiced, hz, 0.0)
    strength = scores[row, index] + OCTAVE_COST * np.log2(lags[row, index] / 6.0)
    refined = _refined_path(fine, hz)
    midi = np.full(n_frames, np.nan)
    midi[voiced] = hz_to_midi(refined[voiced])
    for a, b in runs(voiced):
        _settle_edges(midi[a:b])
    confidence = confidence_of(strength, voiced, midi)
    for a, b in runs(voiced):
        _calm_noise(midi[a:b], strength[a:b])
    return Contour(midi, confidence)


def _with_the_faint(path: NDArray[np.int16], log_lags: Floats, scores: Floats, strength: Floats) -> NDArray[np.int16]:
    """The path with what a breath as loud as the voice hides: no frame alone says that it is sung, but it is about as
    strong and goes on, longer than noise would, at periods this voice has."""
    row = np.arange(len(path))
    there = path >= 0
    if there.sum() * HOP_S < FAINT_S:
        return path
    low, high = np.percentile(log_lags[row, np.maximum(path, 0)][there], (2.0, 98.0))
    near = (log_lags > low - FAINT_REACH) & (log_lags < high + FAINT_REACH)
    faint = _best_path(log_lags, np.where(near, scores, 0.0), FAINT_THRESHOLD)
    path, least = path.copy(), FAINT_SHARE * np.percentile(strength[there], 90)
    for a, b in runs((faint >= 0) & ~there):
        if (b - a) * HOP_S >= FAINT_S and np.median(strength[a:b]) > least:
            path[a:b] = faint[a:b]
    return path


def _calm_noise(midi: Floats, strength: Floats) -> None:
    """Where noise covers the voice, readings are replaced by a polynomial through their neighbours; in place."""
    for width, clear in NOISY:
        if len(midi) > width:
            share = smoothstep((clear - moving_average(strength, width)) / NOISY_SPAN)
            if share.any():
                midi += share * (local_polynomial(midi, width, 2) - midi)


def _settle_edges(midi: Floats) -> None:
    """End frames of a run, whose windows reach into noise, may not leap away from what lies inside; in place."""
    for view in (midi, midi[::-1]):
        inner = min(EDGE_FRAMES, len(view) - 1)
        for i in range(inner - 1, -1, -1):
            if abs(view[i] - view[i + 1]) > EDGE_LEAP:
                view[i] = view[i + 1]


def _refined_path(fine: NDArray[np.float32], hz: Floats) -> Floats:
    """Passes of harmonic refinement, each read along the path that the one before found.

    Two passes everywhere; where the pitch moves fast a third one along a path that is smoothed less.
    """
    settled = _refine_along(fine, hz, hz, 5, 1, FIRST_HARMONICS)
    settled = _refine_along(fine, hz, settled, 5, 1, HARMONICS)
    moving = _moving(settled)
    if not moving.any():
        return settled
    quick = _refine_along(fine, np.where(moving > 0, hz, 0.0), settled, 7, 2, HARMONICS)
    return np.where(moving > 0, settled + moving * (quick - settled), settled)


def _refine_along(fine: NDArray[np.float32], hz: Floats, found: Floats, width: int, order: int, most: int) -> Floats:
    """Refine the frames with ``hz > 0`` along `found`, smoothed by a polynomial of `order` over `width` frames."""
    path = np.where(found > 0, found, np.nan)
    for a, b in runs(found > 0):
        if b - a > width:
            path[a:b] = local_polynomial(found[a:b], width, order)
        if b - a > 4 * EDGE_FRAMES:
            path[a : a + EDGE_FRAMES] = path[a + EDGE_FRAMES]
            path[b - EDGE_FRAMES : b] = path[b - EDGE_FRAMES - 1]
    path = np.where(_far(path, hz), hz, path)
    start = np.where(hz > 0, path, 0.0)
    out = start.copy()
    known = fill_gaps(np.where(path > 0, path, np.nan))
    refine_by_harmonics(fine, float(FINE_RATE), HOP_S, start, known, most, out)
    return np.where(_far(out, hz), hz, out)


def _far(found: Floats, hz: Floats) -> NDArray[np.bool_]:
    """Frames whose refined frequency has left the neighbourhood of the first estimate."""
    return (hz > 0) & ~(np.abs(np.log2(np.maximum(found, 1.0) / np.maximum(hz, 1.0))) < LEASH_OCTAVES)


def _moving(hz: Floats) -> Floats:
    """0 where the pitch is calm to 1 where it moves fast, from the steepest slope within 20 ms."""
    weight = np.zeros(len(hz))
    for a, b in runs(hz > 0):
        if b - a > 7:
            slope = np.abs(local_polynomial(12.0 * np.log2(hz[a:b]), 7, 2, derivative=1)) / HOP_S
            weight[a:b] = smoothstep(
                (scipy.ndimage.maximum_filter1d(slope, 9) - CALM_SLOPE) / (FAST_SLOPE - CALM_SLOPE)
            )
    return weight
