"""Pitch marks: one instant per glottal cycle, between samples, from the phase of the fundamental.

Marks for pitch-synchronous overlap-add: E. Moulines, F. Charpentier,
"Pitch-synchronous waveform processing techniques for text-to-speech
synthesis using diphones", Speech Communication 9, 1990.
"""

from __future__ import annotations

import numba
import numpy as np

from ....signal.signal_tools import fill_gaps
from ....signal.types import HOP_S, Floats
from ....signal.units import midi_to_hz

# Of the sound that a mark is read from, at least: periods, and seconds.  In a high voice three periods are so few that
# its breath moves the marks, and with them all harmonics: the gaps between them fill.
_PERIODS, _SPAN_S = 3.0, 0.02


@numba.njit(cache=True, nogil=True, fastmath=True)
def _fundamental(x, phase, centres, halves, out_re, out_im):  # pragma: no cover - compiled
    """Mean of ``x · exp(-2πi · phase)`` around each centre (sample index), Hann window of ±halves."""
    n = len(x)
    re, im = np.empty(n, np.float32), np.empty(n, np.float32)
    for i in range(n):
        angle = 2.0 * np.pi * phase[i]
        re[i] = x[i] * np.cos(angle)
        im[i] = -x[i] * np.sin(angle)
    for m in range(len(centres)):
        c = centres[m]
        h = halves[m]
        turn = 2.0 * np.pi / (2 * h)
        begin = max(0, c - h + 1)
        sum_re, sum_im = 0.0, 0.0
        cos, sin = np.cos(turn * (begin - c)), np.sin(turn * (begin - c))
        step_cos, step_sin = np.cos(turn), np.sin(turn)
        for i in range(begin, min(n, c + h)):
            w = 0.5 + 0.5 * cos
            sum_re += w * re[i]
            sum_im += w * im[i]
            cos, sin = cos * step_cos - sin * step_sin, sin * step_cos + cos * step_sin
        out_re[m] = sum_re
        out_im[m] = sum_im


@numba.njit(cache=True, nogil=True, fastmath=True)
def _sharpest(x, phase):  # pragma: no cover - compiled
    """Sum of ``exp(2πi · phase)`` weighted by the squared slope of x: real and imaginary part."""
    re, im = 0.0, 0.0
    for i in range(1, len(x)):
        slope = x[i] - x[i - 1]
        angle = 2.0 * np.pi * phase[i]
        re += slope * slope * np.cos(angle)
        im += slope * slope * np.sin(angle)
    return re, im


def pitch_marks(audio: Floats, sample_rate: int, midi: Floats, first_frame: int, origin: int = 0) -> Floats:
    """Marks of one voiced run.

    Parameters
    ----------
    audio : ndarray, shape (channels, n)
        The track from sample `origin` on; all channels share the marks.
    sample_rate : int
        Hertz.
    midi : ndarray, shape (n_frames,)
        The run's pitch, no NaN inside; frame 0 is analysis frame `first_frame`.

    Returns
    -------
    marks : ndarray, shape (m,)
        Sample positions after `origin`, increasing, one per cycle, near the loudest part of
        each cycle; empty when the run has fewer than three cycles.
    """
    begin = int(first_frame * HOP_S * sample_rate) - origin
    end = min(audio.shape[1], int(np.ceil((first_frame + len(midi) - 1) * HOP_S * sample_rate)) + 1 - origin)
    if end - begin < 16:
        return np.zeros(0)
    x = audio[:, begin:end].mean(axis=0, dtype=np.float64)
    frame_position = (np.arange(len(midi)) + first_frame) * HOP_S * sample_rate - origin - begin
    hz = np.interp(np.arange(end - begin), frame_position, midi_to_hz(fill_gaps(midi)))
    phase = np.cumsum(hz) / sample_rate
    if phase[-1] - phase[0] < 3.0:
        return np.zeros(0)
    grid = np.arange(phase[0] + 0.25, phase[-1] - 0.25)
    centres = np.searchsorted(phase, grid).astype(np.int64)
    spans_s = np.maximum(_PERIODS / hz[centres], _SPAN_S)
    halves = np.maximum(4, (spans_s / 2 * sample_rate).astype(np.int64))
    re, im = np.empty(len(grid)), np.empty(len(grid))
    _fundamental(x, phase, centres, halves, re, im)
    advance: Floats = np.unwrap(np.angle(re + 1j * im)) / (2.0 * np.pi)
    advance = _without_leaps(advance)
    exact = phase + np.interp(np.arange(len(phase)), centres, advance)
    exact = np.maximum.accumulate(exact + np.arange(len(exact)) * 1e-9)
    exact -= _loudest_phase(x, exact)
    whole = np.arange(np.ceil(exact[0]), np.floor(exact[-1]) + 1)
    return begin + np.interp(whole, exact, np.arange(len(exact)))


def _without_leaps(advance: Floats) -> Floats:
    """Limit the phase correction to a fifth of a cycle per cycle, where the fundamental is lost."""
    step = np.diff(advance, prepend=advance[0])
    return advance[0] + np.cumsum(np.clip(step, -0.2, 0.2))


def _loudest_phase(x: Floats, phase: Floats) -> float:
    """Phase (0 to 1) at which the cycle's energy is concentrated, by its circular mean over the run."""
    re, im = _sharpest(x, phase)
    return float(np.arctan2(im, re) / (2.0 * np.pi)) % 1.0
