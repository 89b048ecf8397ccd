"""Scores of what was found or rendered against exact truth.  Nothing in the package's working parts imports this.

f0 scores as in melody evaluation (J. Salamon et al., "Melody extraction from
polyphonic music signals", IEEE Signal Processing Magazine 31, 2014); note
scores as in the MIREX note tracking task, with the tolerances of mir_eval.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from ..signal.interpolation import read_between
from ..signal.signal_tools import runs
from ..signal.types import HOP_S, Floats
from ..signal.units import midi_to_hz

ONSET_S, PITCH_CENTS, OFFSET_SHARE, OFFSET_S = 0.05, 50.0, 0.2, 0.05
_WINDOW, _HOP = 2048, 512
_MEL_BANDS, _CEPSTRA = 40, 25


@dataclass(frozen=True)
class PitchScores:
    """Shares of voiced frames within 50 and 10 cents, median and 95th percentile of the error in cents, recall and
    false alarm of voicing, longest stretch in seconds that is an octave or so (over 600 cents) off."""

    within_50: float
    within_10: float
    median_cents: float
    recall: float
    false_alarm: float
    p95_cents: float
    octave_s: float


def pitch_scores(found: Floats, truth: Floats, *, margin: int = 3) -> PitchScores:
    """Compare two contours in MIDI, shape (n,), NaN unvoiced; `margin` frames at voicing borders are left out."""
    n = min(len(found), len(truth))
    found, truth = found[:n], truth[:n]
    voiced = np.isfinite(truth)
    wide = np.ones(2 * margin + 1)
    inner = np.convolve(voiced, wide, "same") >= 2 * margin + 1
    outer = np.convolve(~voiced, wide, "same") >= 2 * margin + 1
    both = inner & np.isfinite(found)
    error = 100.0 * np.abs(found[both] - truth[both])
    if len(error) == 0:
        false_alarm = float(np.isfinite(found[outer]).mean()) if outer.any() else 0.0
        return PitchScores(0.0, 0.0, float("nan"), 0.0, false_alarm, float("nan"), 0.0)
    wrong = np.zeros(n, dtype=bool)
    wrong[both] = error > 600
    return PitchScores(
        float(np.mean(error < 50)),
        float(np.mean(error < 10)),
        float(np.median(error)),
        float(np.isfinite(found[inner]).mean()),
        float(np.isfinite(found[outer]).mean()) if outer.any() else 0.0,
        float(np.percentile(error, 95)),
        max((b - a for a, b in runs(wrong)), default=0) * HOP_S,
    )


NoteTruth = tuple[float, float, float]  # start s, end s, centre MIDI


def match_notes(found: Sequence[NoteTruth], truth: Sequence[NoteTruth], *, offsets: bool) -> list[tuple[int, int]]:
    """Largest one-to-one matching of notes as (found, truth) indices: onset, pitch and, if asked, offset agree."""
    if not found or not truth:
        return []
    f, t = np.array(found, dtype=np.float64), np.array(truth, dtype=np.float64)
    fits = np.round(np.abs(f[:, None, 0] - t[None, :, 0]), 4) <= ONSET_S  # rounded as mir_eval does
    fits &= 100.0 * np.abs(f[:, None, 2] - t[None, :, 2]) <= PITCH_CENTS
    if offsets:
        allowed = np.maximum(OFFSET_SHARE * (t[:, 1] - t[:, 0]), OFFSET_S)
        fits &= np.round(np.abs(f[:, None, 1] - t[None, :, 1]), 4) <= allowed[None]
    rows, columns = scipy.optimize.linear_sum_assignment(~fits)
    return [(int(r), int(c)) for r, c in zip(rows, columns, strict=True) if fits[r, c]]


def note_f1(found: Sequence[NoteTruth], truth: Sequence[NoteTruth], *, offsets: bool = False) -> float:
    """F measure of the matching, 0 to 1; 1 when both are empty."""
    if not found and not truth:
        return 1.0
    return 2.0 * len(match_notes(found, truth, offsets=offsets)) / (len(found) + len(truth))


def mask_f1(found: np.ndarray, truth: np.ndarray) -> float:
    """F measure of two frame masks."""
    total = int(found.sum() + truth.sum())
    return 1.0 if total == 0 else 2.0 * int((found & truth).sum()) / total


def _frames(audio: Floats, size: int = _WINDOW, hop: int = _HOP) -> Floats:
    view = np.lib.stride_tricks.sliding_window_view(audio, size)[::hop]
    return np.abs(scipy.fft.rfft(view * np.hanning(size), axis=1)) * 2.0 / size


def spectral_distance(first: Floats, second: Floats, sample_rate: int, *, top_hz: float = 8000.0) -> float:
    """Root-mean-square difference of log magnitudes up to `top_hz`, in dB, with a floor at −75 dB."""
    bins = int(top_hz / sample_rate * _WINDOW)
    a, b = (20.0 * np.log10(np.maximum(_frames(x)[:, :bins], 10 ** (-75 / 20))) for x in (first, second))
    return float(np.mean(np.sqrt(np.mean((a - b) ** 2, axis=1))))


def cepstral_distance(first: Floats, second: Floats, sample_rate: int) -> float:
    """Mel-cepstral distance in dB over coefficients 1 to 25 of a 40-band mel spectrum.

    R. Kubichek, "Mel-cepstral distance measure for objective speech quality
    assessment", IEEE Pacific Rim Conference 1993.
    """
    hz = np.arange(_WINDOW // 2 + 1) * sample_rate / _WINDOW
    mel = 2595.0 * np.log10(1.0 + hz / 700.0)
    edges = np.linspace(mel[1], 2595.0 * np.log10(1.0 + min(10_000.0, sample_rate / 2) / 700.0), _MEL_BANDS + 2)
    rise = (mel[None] - edges[:-2, None]) / np.diff(edges)[:-1, None]
    fall = (edges[2:, None] - mel[None]) / np.diff(edges)[1:, None]
    bank = np.clip(np.minimum(rise, fall), 0.0, None)

    def cepstra(audio: Floats) -> Floats:
        power = (_frames(audio) ** 2) @ bank.T + 1e-8
        transformed = scipy.fft.dct(0.5 * np.log(power), type=2, norm="ortho", axis=1)
        return transformed[:, 1 : _CEPSTRA + 1] / np.sqrt(_MEL_BANDS / 2)

    difference = cepstra(first) - cepstra(second)
    return float(np.mean(10.0 / np.log(10.0) * np.sqrt(2.0 * np.sum(difference**2, axis=1))))


def harmonics_to_noise(audio: Floats, sample_rate: int, midi: Floats) -> float:
    """Median harmonics-to-noise ratio in dB over the frames of `midi`, shape (n_frames,), that have a pitch.

    From the normalised correlation one true period apart, over three periods (P. Boersma, "Accurate short-term
    analysis of the fundamental frequency and the harmonics-to-noise ratio of a sampled sound", IFA Proceedings 17,
    1993, eq. 4). Each moment has its own period, so that a pitch that moves is not heard as noise.
    """
    known = np.flatnonzero(np.isfinite(midi))
    if len(known) == 0:
        return float("nan")
    step = HOP_S * sample_rate
    samples = np.arange(len(audio))
    cycles = np.cumsum(midi_to_hz(np.interp(samples / step, known, midi[known])) / sample_rate)
    found = []
    for frame in known:
        at = round(frame * step)
        place = np.interp(cycles[min(at, len(audio) - 1)] + np.array([-2.0, 1.0]), cycles, samples)
        first = np.arange(int(place[0]), int(place[1]))
        second = np.interp(cycles[first] + 1.0, cycles, samples)
        if len(first) < 3 or first[0] <= 0 or second[-1] >= len(audio) - 1:
            continue
        here, later = audio[first], read_between(audio, second)
        share = np.dot(here, later) / np.sqrt(np.dot(here, here) * np.dot(later, later) + 1e-30)
        share = min(max(float(share), 1e-4), 1.0 - 1e-6)
        found.append(10.0 * np.log10(share / (1.0 - share)))
    return float(np.median(found)) if found else float("nan")


def border_jump(source: Floats, tuned: Floats, sample_rate: int, borders_s: Sequence[float]) -> float:
    """Largest sample-to-sample jump within 5 ms of the borders, over the largest in the sound 30 ms around them.

    Parameters
    ----------
    source, tuned : ndarray, shape (n,)
        What was recorded and what came of it.
    borders_s : sequence of float
        Where changed sound meets unchanged sound, or voiced meets unvoiced, in seconds.

    Returns
    -------
    float
        The worst border; at most 1 means that no click stands out.
    """
    worst = 0.0
    for border in borders_s:
        at, near, wide = int(border * sample_rate), int(0.005 * sample_rate), int(0.03 * sample_rate)
        around = np.abs(np.diff(source[max(0, at - wide) : at + wide])).max(initial=0.0)
        around = max(around, np.abs(np.diff(tuned[at + near : at + wide])).max(initial=0.0))
        around = max(around, np.abs(np.diff(tuned[max(0, at - wide) : max(0, at - near)])).max(initial=0.0))
        here = np.abs(np.diff(tuned[max(0, at - near) : at + near])).max(initial=0.0)
        worst = max(worst, float(here / max(around, 1e-6)))
    return worst


COMB_HZ = (150.0, 6000.0)
_COMB_S = 0.085  # a window that still shows the comb of a copy 30 ms late, 11 dB deep


def comb_of(parts: Sequence[Floats], sample_rate: int) -> tuple[float, float]:
    """Whether a sum of voices combs: the deepest notch, in dB, of its long-term spectrum against the sum of theirs, and
    how strongly notches stand a steady distance apart, 0 to 1 (the autocorrelation of that ratio over frequency)."""
    shortest = min(len(part) for part in parts)
    size = scipy.fft.next_fast_len(round(_COMB_S * sample_rate))
    cut = [part[:shortest] for part in parts]
    *own, both = (np.square(_frames(part, size, size // 2)).mean(axis=0) for part in (*cut, np.sum(cut, axis=0)))
    freq = np.fft.rfftfreq(size, 1.0 / sample_rate)
    ratio = 10.0 * np.log10((both + 1e-14) / (np.sum(own, axis=0) + 1e-14))
    ratio = ratio[(freq > COMB_HZ[0]) & (freq < COMB_HZ[1])]
    centred = ratio - ratio.mean()
    spectrum = np.abs(np.fft.rfft(centred, 2 * len(centred))) ** 2
    steady = np.fft.irfft(spectrum)[6:200] / max(float(centred @ centred), 1e-12)
    return float(ratio.min()), float(steady.max())
