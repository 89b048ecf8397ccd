"""Split a note's sung contour into centre, drift, vibrato and fine; the four always add up to it.

The centre is where the note is heard. For vibrato tones that is the mean over
whole cycles (J. Sundberg, "Effects of the vibrato and the singing formant on
pitch", Musicologica Slovaca 6, 1978; J. I. Shonle, K. E. Horan, "The pitch of
vibrato tones", J. Acoust. Soc. Am. 67, 1980).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...signal.signal_tools import fill_gaps, moving_average, smoothstep
from ...signal.types import HOP_S, Floats, Vibrato

VIBRATO_LOW_HZ, VIBRATO_HIGH_HZ = 4.0, 8.2
DRIFT_HIGH_HZ = 2.4
MIN_VIBRATO_CENTS = 7.0
MIN_CYCLES = 2.2
MIN_EXPLAINED = 0.70  # share of the faster movement that the vibrato must account for
STEADY_SLOPE = 1.6  # semitones per second at which a frame counts half for the centre
CALM_SEMITONES = 0.5
SHORTEST_DRIFT_S, DRIFT_REACH_SEMITONES = 0.4, 0.7
SLOPE_EDGE_S = 0.07  # left out at both ends of a note when its drift is told as a slope
_RIDGE = 0.02
_RATES = np.arange(VIBRATO_LOW_HZ, VIBRATO_HIGH_HZ + 0.05, 0.1)


@dataclass(frozen=True)
class ContourParts:
    """Parts of one note's contour, each of shape (n,) in semitones except `centre` (MIDI).

    ``centre + drift + vibrato + fine`` is the sung contour.
    """

    centre: float
    drift: Floats
    vibrato: Floats
    fine: Floats
    weight: Floats
    vibrato_found: Vibrato | None

    @property
    def drift_cents_per_s(self) -> float:
        """Slope by least squares over all but the vibrato, away from the edges of the note and from its way in and out;
        0 for a note too short for its movement to be heard as drift."""
        n = len(self.drift)
        edge = int(min(SLOPE_EDGE_S / HOP_S, n / 5))
        inner = (self.drift + self.fine)[edge : n - edge]
        if len(inner) < 2 or n * HOP_S < SHORTEST_DRIFT_S:
            return 0.0
        near = np.abs(inner) < DRIFT_REACH_SEMITONES  # what lies further off is a glide
        if near.sum() * HOP_S < SHORTEST_DRIFT_S / 2:
            return 0.0
        weight = self.weight[edge : n - edge] * near
        time = np.arange(len(inner)) * HOP_S
        time = time - float(np.sum(weight * time) / weight.sum())
        return float(100.0 * np.sum(weight * time * inner) / np.sum(weight * time * time))


def split_contour(midi: Floats, level: Floats) -> ContourParts:
    """Split the contour of one note.

    Parameters
    ----------
    midi : ndarray, shape (n,)
        Sung pitch at 5 ms frames; NaN (unvoiced) frames are bridged.
    level : ndarray, shape (n,)
        Loudness in dB at the same frames; louder frames count more.
    """
    pitch = fill_gaps(np.asarray(midi, dtype=np.float64))
    n = len(pitch)
    weight = _centre_weight(pitch, level)
    middle = float(np.sum(weight * pitch) / weight.sum())
    deviation = pitch - middle
    calm = _calm_weight(deviation, weight)
    found, rate = _find_vibrato(deviation, calm)
    slow, periodic = _regress(deviation, calm if found else weight, rate)
    vibrato = periodic if found else np.zeros(n)
    if found:  # weigh again by the steadiness of what lies under the vibrato
        weight = _centre_weight(pitch - vibrato, level)
    under = pitch - vibrato
    centre = float(np.sum(weight * under) / weight.sum())
    drift = slow + middle - centre
    drift = drift - float(np.sum(weight * drift) / weight.sum())
    fine = pitch - centre - drift - vibrato
    described = _describe(vibrato, rate) if found else None
    return ContourParts(centre, drift, vibrato, fine, weight, described)


def _centre_weight(pitch: Floats, level: Floats) -> Floats:
    """Loud, steady frames away from the edges count; the scoop in and the fall out hardly."""
    n = len(pitch)
    slow = moving_average(pitch, 9)
    slope = np.gradient(slow, HOP_S) if n > 2 else np.zeros(n)
    steady = 1.0 / (1.0 + (slope / STEADY_SLOPE) ** 2)
    loud = np.power(10.0, np.clip(level - np.max(level), -30.0, 0.0) / 40.0)
    edge = max(1.0, min(0.06 / HOP_S, 0.2 * n))
    position = np.arange(n)
    taper = smoothstep((position + 0.5) / edge) * smoothstep((n - position - 0.5) / edge)
    return loud * steady * taper + 1e-6


def _calm_weight(deviation: Floats, weight: Floats) -> Floats:
    """Weights for finding vibrato: the way in and out hardly counts, the swing of the vibrato itself fully."""
    middle = moving_average(deviation, int(0.18 / HOP_S) | 1)
    near = np.abs(middle - np.median(middle)) < CALM_SEMITONES
    edge = np.minimum(np.arange(len(deviation)), np.arange(len(deviation))[::-1]) >= 3
    return np.where(near & edge, float(weight.max()), 0.0004 * float(weight.max()))


def _slow_basis(n: int) -> Floats:
    """Constant, slope and cosines up to `DRIFT_HIGH_HZ`, shape (n, k)."""
    length = n * HOP_S
    position = (np.arange(n) + 0.5) / n
    order = int(2.0 * length * DRIFT_HIGH_HZ)
    columns = [np.ones(n), 2.0 * position - 1.0]
    columns += [np.cos(np.pi * k * position) for k in range(2, order + 1)]
    return np.stack(columns, axis=1)


def _vibrato_basis(n: int, rate: float) -> Floats:
    """Sine and cosine at `rate` with slowly changing amplitude and phase, shape (n, k)."""
    phase = 2.0 * np.pi * rate * (np.arange(n) - n / 2) * HOP_S
    position = (np.arange(n) + 0.5) / n
    order = int(2.0 * n * HOP_S * 1.4)
    columns = []
    for k in range(order + 1):
        swell = np.cos(np.pi * k * position)
        columns += [swell * np.cos(phase), swell * np.sin(phase)]
    return np.stack(columns, axis=1)


def _solve(basis: Floats, values: Floats, weight: Floats, ridge: Floats) -> Floats:
    weighted = basis * weight[:, None]
    normal = weighted.T @ basis + np.diag(ridge * weight.sum())
    return np.linalg.solve(normal, weighted.T @ values)


def _regress(deviation: Floats, weight: Floats, rate: float | None) -> tuple[Floats, Floats]:
    """Fit slow movement and vibrato together, so that half cycles at the edges do not tilt the drift."""
    n = len(deviation)
    slow = _slow_basis(n)
    even = np.sqrt(weight / weight.max())
    ridge = np.concatenate(([1e-6, 1e-4], np.full(slow.shape[1] - 2, _RIDGE)))
    if rate is None:
        return slow @ _solve(slow, deviation, even, ridge), np.zeros(n)
    wave = _vibrato_basis(n, rate)
    both = np.concatenate((slow, wave), axis=1)
    wave_ridge = np.full(wave.shape[1], _RIDGE / 20)
    wave_ridge[:2] = 1e-5
    answer = _solve(both, deviation, even, np.concatenate((ridge, wave_ridge)))
    split = slow.shape[1]
    return slow @ answer[:split], wave @ answer[split:]


def _find_vibrato(deviation: Floats, weight: Floats) -> tuple[bool, float | None]:
    """Whether a vibrato is really there, and the rate in Hz that explains most."""
    n = len(deviation)
    if n * HOP_S * VIBRATO_LOW_HZ < MIN_CYCLES * 0.8:
        return False, None
    even = np.sqrt(weight / weight.max())
    slow = _slow_basis(n)
    ridge = np.concatenate(([1e-6, 1e-4], np.full(slow.shape[1] - 2, _RIDGE)))
    rest = deviation - slow @ _solve(slow, deviation, even, ridge)
    energy = float(np.sum(even * rest * rest))
    if energy <= 0:
        return False, None
    gains = _gain_by_rate(rest, even, energy)
    best = int(np.argmax(gains))
    rate = float(_RATES[best])
    if 0 < best < len(_RATES) - 1:
        curve = gains[best - 1] - 2 * gains[best] + gains[best + 1]
        if curve < 0:
            rate += 0.1 * 0.5 * (gains[best - 1] - gains[best + 1]) / curve
    cycles = n * HOP_S * rate
    inside = 0 < best < len(_RATES) - 1
    wave = _regress(deviation, weight, rate)[1] if inside else np.zeros(n)
    left = rest - wave
    explained = 1.0 - float(np.sum(even * left * left)) / energy
    found = (
        inside
        and cycles >= MIN_CYCLES
        and gains[best] >= 0.25
        and explained >= MIN_EXPLAINED
        and 100 * np.percentile(np.abs(wave), 95) >= MIN_VIBRATO_CENTS
    )
    return bool(found), rate if found else None


def _gain_by_rate(rest: Floats, even: Floats, energy: float) -> Floats:
    """Share of the weighted `energy` that a steady wave at each of `_RATES` explains, shape (n_rates,)."""
    phase = 2.0 * np.pi * _RATES[:, None] * (np.arange(len(rest)) * HOP_S)[None]
    cos, sin = np.cos(phase), np.sin(phase)
    cc, ss, cs = (cos * cos) @ even, (sin * sin) @ even, (cos * sin) @ even
    pc, ps = cos @ (even * rest), sin @ (even * rest)
    determinant = np.maximum(cc * ss - cs * cs, 1e-12)
    return (pc * pc * ss - 2 * pc * ps * cs + ps * ps * cc) / determinant / energy


def _describe(vibrato: Floats, rate: float | None) -> Vibrato:
    """Rate from the zero crossings' mean spacing, extent from the turning points, onset where it reaches half."""
    assert rate is not None
    envelope = _envelope(vibrato, rate)
    full = float(np.percentile(envelope, 75))
    strong = np.flatnonzero(envelope >= 0.5 * full)
    onset = float(strong[0] * HOP_S) if len(strong) else 0.0
    crossing = np.flatnonzero(np.diff(np.signbit(vibrato[strong[0] :])))
    if len(crossing) >= 4:
        start = strong[0] + crossing
        exact = start + vibrato[start] / (vibrato[start] - vibrato[start + 1])
        slope = np.polyfit(np.arange(len(exact)), exact, 1)[0]
        measured = 0.5 / (slope * HOP_S)
        if VIBRATO_LOW_HZ - 0.5 <= measured <= VIBRATO_HIGH_HZ + 0.5:
            rate = float(measured)
    return Vibrato(float(rate), float(100.0 * full), onset)


def _envelope(vibrato: Floats, rate: float) -> Floats:
    """Amplitude over time: root mean square over one cycle times the square root of two."""
    cycle = max(3, round(1.0 / rate / HOP_S) | 1)
    return np.sqrt(2.0 * np.maximum(moving_average(vibrato * vibrato, cycle), 0.0))
