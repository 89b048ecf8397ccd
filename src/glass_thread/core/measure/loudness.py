"""Loudness and true peak as ITU-R BS.1770-4 measures them.

The K-weighting is given there for 48 kHz; for other rates its two filters are made anew from their analogue
parameters (frequency, gain and Q fitted to those coefficients by B. De Man, "Evaluation of implementations of the EBU
R128 loudness measurement", AES Convention 145, 2018, from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from ..signal.types import Floats
from ..signal.units import gain_to_db

BLOCK_S, STEP_S = 0.4, 0.1
ABSOLUTE_GATE, RELATIVE_GATE = -70.0, -10.0
_OFFSET = -0.691
# Annex 2 of BS.1770: the four phases of the interpolating filter for 4 x 48 kHz (the last two mirror the first two).
_PHASES = (
    (0.0017089843750, 0.0109863281250, -0.0196533203125, 0.0332031250000, -0.0594482421875, 0.1373291015625,
     0.9721679687500, -0.1022949218750, 0.0476074218750, -0.0266113281250, 0.0148925781250, -0.0083007812500),
    (-0.0291748046875, 0.0292968750000, -0.0517578125000, 0.0891113281250, -0.1665039062500, 0.4650878906250,
     0.7797851562500, -0.2003173828125, 0.1015625000000, -0.0582275390625, 0.0330810546875, -0.0189208984375),
)  # fmt: skip
PEAK_FILTER: tuple[tuple[float, ...], ...] = (*_PHASES, _PHASES[1][::-1], _PHASES[0][::-1])
_MOST_OVER = max(sum(map(abs, phase)) for phase in PEAK_FILTER)  # no peak is higher than this times a sample near it
_PEAK_PIECE = 2048  # samples that are looked at, or passed over, together
_BACKWARDS = np.array(PEAK_FILTER)[:, ::-1].T.copy()  # all four phases at once are 2 to 3 times as fast as one by one


@dataclass(frozen=True)
class Loudness:
    """Integrated loudness in LUFS (None when nothing passes the gate) and true peak in dBTP."""

    integrated_lufs: float | None
    true_peak_dbtp: float


def _shelf(rate: float) -> tuple[Floats, Floats]:
    """First stage: the head's high shelf, +4 dB from about 1.7 kHz."""
    hz, gain_db, q = 1681.974450955533, 3.999843853973347, 0.7071752369554196
    k = np.tan(np.pi * hz / rate)
    high = 10.0 ** (gain_db / 20.0)
    band = high**0.4996667741545416
    a0 = 1.0 + k / q + k * k
    b = np.array([high + band * k / q + k * k, 2.0 * (k * k - high), high - band * k / q + k * k]) / a0
    return b, np.array([1.0, 2.0 * (k * k - 1.0) / a0, (1.0 - k / q + k * k) / a0])


def _high_pass(rate: float) -> tuple[Floats, Floats]:
    """Second stage: the revised low-frequency B curve."""
    hz, q = 38.13547087602444, 0.5003270373238773
    k = np.tan(np.pi * hz / rate)
    a0 = 1.0 + k / q + k * k
    return np.array([1.0, -2.0, 1.0]), np.array([1.0, 2.0 * (k * k - 1.0) / a0, (1.0 - k / q + k * k) / a0])


class LoudnessMeter:
    """Takes audio in parts, so that a long track is never held whole.

    Parameters
    ----------
    sample_rate : int
        Hertz.
    channels : int
        1 or 2, or more with equal weight (left, right and centre have weight 1 in BS.1770).
    """

    def __init__(self, sample_rate: int, channels: int) -> None:
        self._stages = [(b, a, np.zeros((channels, 2))) for b, a in (_shelf(sample_rate), _high_pass(sample_rate))]
        self._step = max(1, round(STEP_S * sample_rate))
        self._left: Floats = np.zeros((channels, 0))
        self._powers: list[float] = []
        self._peak = 0.0
        self._before: Floats = np.zeros((channels, len(PEAK_FILTER[0]) - 1))

    def add(self, audio: Floats) -> None:
        """Take the next samples, shape (channels, n)."""
        if audio.shape[1] == 0:
            return
        weighted = audio
        for i, (b, a, state) in enumerate(self._stages):
            weighted, state = scipy.signal.lfilter(b, a, weighted, axis=1, zi=state)
            self._stages[i] = (b, a, state)
        weighted = np.concatenate((self._left, weighted), axis=1)
        whole = weighted.shape[1] // self._step
        pieces = weighted[:, : whole * self._step].reshape(len(audio), whole, self._step)
        self._powers += np.square(pieces).mean(axis=2).sum(axis=0).tolist()
        self._left = weighted[:, whole * self._step :]
        joined = np.concatenate((self._before, audio), axis=1)
        self._peak = max(self._peak, float(np.abs(audio).max()))
        self._raise_peak(joined)
        self._before = joined[:, -self._before.shape[1] :]

    def _raise_peak(self, joined: Floats) -> None:
        """Look for a higher true peak where there can be one, the loudest pieces first; samples with those before."""
        taps = len(PEAK_FILTER[0])
        edges = np.arange(taps - 1, joined.shape[1], _PEAK_PIECE)
        loudest = np.array([np.abs(joined[:, at - taps + 1 : at + _PEAK_PIECE]).max() for at in edges])
        for i in np.argsort(-loudest):
            if loudest[i] * _MOST_OVER <= self._peak:
                break
            piece = joined[:, edges[i] - taps + 1 : edges[i] + _PEAK_PIECE]
            near = np.ascontiguousarray(np.lib.stride_tricks.sliding_window_view(piece, taps, axis=1))
            self._peak = max(self._peak, float(np.abs(near @ _BACKWARDS).max(initial=0.0)))

    def result(self) -> Loudness:
        """What was measured of everything taken so far; sound shorter than one block counts as one."""
        peak = self._peak
        silence = np.zeros_like(self._before)
        for phase in PEAK_FILTER:
            tail = scipy.signal.lfilter(phase, 1.0, np.concatenate((self._before, silence), axis=1), axis=1)
            peak = max(peak, float(np.abs(tail).max(initial=0.0)))
        return Loudness(_gated(np.array(self._powers)), float(gain_to_db(peak)))


def _gated(powers: Floats) -> float | None:
    """Integrated loudness of K-weighted powers of 100 ms pieces: blocks of four, both gates."""
    per_block = round(BLOCK_S / STEP_S)
    if len(powers) == 0:
        return None
    blocks = np.convolve(powers, np.ones(per_block) / per_block, "valid") if len(powers) >= per_block else powers[:1]
    loud = blocks[_lufs(blocks) > ABSOLUTE_GATE]
    if len(loud) == 0:
        return None
    kept = loud[_lufs(loud) > _lufs(loud.mean()) + RELATIVE_GATE]
    return float(_lufs(kept.mean()))


def _lufs(power: Floats | float) -> Floats:
    return _OFFSET + 10.0 * np.log10(np.maximum(power, 1e-15))


def measure_loudness(audio: Floats, sample_rate: int) -> Loudness:
    """Integrated loudness and true peak of shape (channels, n) audio."""
    meter = LoudnessMeter(sample_rate, len(audio))
    meter.add(audio)
    return meter.result()
