"""Cut each voiced run into notes.

Possible cuts are the places of steepest pitch. Among them dynamic programming
picks the cuts for which every piece lies close to one steady pitch, a slow
slope and, where it is there, a vibrato; each cut costs a little, and more the
slower the way across it, so that scoops and falls stay with their note.
"""

from __future__ import annotations

import math

import numba
import numpy as np
import scipy.signal as ss
from numpy.typing import NDArray

from .signal_tools import runs
from .types import HOP_S, Floats

TOLERANCE_CENTS = 40.0
CUT_COST_FRAMES = 6.0
SLOW_WAY_COST = 0.8  # frames of cost for each frame the way across takes
OFF_STEEPEST_COST = 14.0
DIP_GAIN = 4.0  # frames that a level dip is worth
MIN_SLOPE = 350.0  # cents per second at a possible cut
MIN_NOTE_S = 0.06
DIP_DB = 6.5
DIP_REACH_S = 0.11
LONGEST_PIECE = 70  # possible cuts looked back over


@numba.njit(cache=True, fastmath=True)
def _wave_cost(p, a, b, middle, c, s, tolerance):  # pragma: no cover - compiled
    """Misfit of p[a:b] to a level plus the best mix of the waves `c` and `s`."""
    n = b - a
    cc, cs, ss_, pc, ps, mean, sum_c, sum_s = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for i in range(n):
        v = min(max(p[a + i] - middle, -250.0), 250.0)
        mean += v
        sum_c += c[i]
        sum_s += s[i]
        cc += c[i] * c[i]
        cs += c[i] * s[i]
        ss_ += s[i] * s[i]
        pc += v * c[i]
        ps += v * s[i]
    mean /= n
    pc -= mean * sum_c
    ps -= mean * sum_s
    cc -= sum_c * sum_c / n
    ss_ -= sum_s * sum_s / n
    cs -= sum_c * sum_s / n
    det = cc * ss_ - cs * cs
    if det <= 1e-9:
        return 1e9
    ka = (pc * ss_ - ps * cs) / det
    kb = (ps * cc - pc * cs) / det
    if math.hypot(ka, kb) > 250.0:
        return 1e9
    base = middle + mean - (ka * sum_c + kb * sum_s) / n
    cost = 2.0
    for i in range(n):
        off = (p[a + i] - base - ka * c[i] - kb * s[i]) / tolerance
        cost += min(off * off, 1.0)
    return cost


@numba.njit(cache=True, fastmath=True)
def _likely_rate(sums, a, b):  # pragma: no cover - compiled
    """Index of the rate whose wave explains most of the piece, from running sums; -1 when none does."""
    n = b - a
    best, arg = 0.0, -1
    for r in range(sums.shape[0]):
        d = sums[r, b] - sums[r, a]
        v, c, s = d[0] / n, d[1] / n, d[2] / n
        cc, s2, cs = d[3] - n * c * c, d[4] - n * s * s, d[5] - n * c * s
        pc, ps = d[6] - n * v * c, d[7] - n * v * s
        det = cc * s2 - cs * cs
        if det > 1e-6:
            gain = (pc * pc * s2 - 2.0 * pc * ps * cs + ps * ps * cc) / det
            if gain > best:
                best, arg = gain, r
    return arg


@numba.njit(cache=True, fastmath=True)
def _piece_cost(p, a, b, tolerance, tables, sums):  # pragma: no cover - compiled
    """Misfit in frames of p[a:b] to a steady pitch with slope and perhaps vibrato; each frame costs 0 to 1."""
    n = b - a
    ordered = np.sort(p[a:b])
    middle = ordered[n // 2]
    best = 0.0
    for i in range(a, b):
        off = (p[i] - middle) / tolerance
        best += min(off * off, 1.0)
    if n < 24 or best < 3.0:
        return best
    rate = _likely_rate(sums, a, b)
    if rate < 0:
        return best
    c, s = np.empty(n), np.empty(n)
    for swell in range(4):  # vibrato from the start, or setting in later
        for i in range(n):
            gain = 1.0 if swell == 0 else min(max((i / n - 0.2 * (swell - 1)) / 0.4, 0.0), 1.0)
            c[i] = gain * tables[rate, a + i, 0]
            s[i] = gain * tables[rate, a + i, 1]
        best = min(best, _wave_cost(p, a, b, middle, c, s, tolerance))
    return best


@numba.njit(cache=True)
def _cheapest_cuts(p, places, prices, tolerance, tables, sums, shortest):  # pragma: no cover - compiled
    """Indices into `places` of the chosen cuts; the first and last place are the run's ends."""
    m = len(places)
    total = np.full(m, 1e18)
    previous = np.zeros(m, np.int64)
    total[0] = 0.0
    for j in range(1, m):
        for i in range(max(0, j - LONGEST_PIECE), j):
            if places[j] - places[i] < shortest and not (i == 0 and j == m - 1):
                continue
            if total[i] >= 1e17:
                continue
            cost = total[i] + prices[j]
            if cost >= total[j]:
                continue
            cost += _piece_cost(p, places[i], places[j], tolerance, tables, sums)
            if cost < total[j]:
                total[j] = cost
                previous[j] = i
    chosen = [m - 1]
    while chosen[-1] != 0:
        chosen.append(previous[chosen[-1]])
    return np.array(chosen[::-1])


def _rate_tables(cents: Floats) -> tuple[Floats, Floats]:
    """Cosine and sine at each vibrato rate, shape (rates, n, 2), and running sums of their products with the pitch."""
    n = len(cents)
    phase = 2.0 * np.pi * np.arange(4.1, 7.9, 0.15)[:, None] * np.arange(n)[None] * HOP_S
    c, s = np.cos(phase), np.sin(phase)
    v = np.broadcast_to(cents - np.median(cents), c.shape)
    products = np.stack((v, c, s, c * c, s * s, c * s, v * c, v * s), axis=-1)
    sums = np.concatenate((np.zeros((len(c), 1, 8)), np.cumsum(products, axis=1)), axis=1)
    return np.stack((c, s), axis=-1), sums


def _possible_cuts(cents: Floats) -> tuple[NDArray[np.int64], Floats]:
    """Frames of steepest pitch, and what a cut there costs beyond the fixed price."""
    n = len(cents)
    width = 7 if n > 8 else 5
    slope = ss.savgol_filter(cents, width, 2, deriv=1, delta=HOP_S) if n >= width else np.zeros(n)
    steep = np.abs(slope)
    peaks, _ = ss.find_peaks(steep, height=MIN_SLOPE, distance=3)
    prices = np.empty(len(peaks))
    for i, peak in enumerate(peaks):
        low = steep[peak] * 0.25
        a = b = peak
        while a > 0 and slope[a - 1] * slope[peak] > 0 and steep[a - 1] > low:
            a -= 1
        while b < n - 1 and slope[b + 1] * slope[peak] > 0 and steep[b + 1] > low:
            b += 1
        steepest = steep[a : b + 1].max()
        prices[i] = SLOW_WAY_COST * (b - a + 1) + OFF_STEEPEST_COST * (1.0 - steep[peak] / steepest)
    return peaks, prices


def cut_run(midi: Floats, level: Floats, *, sensitivity: float = 0.0) -> list[int]:
    """Frames at which one voiced run is cut, without its ends.

    Parameters
    ----------
    midi, level : ndarray, shape (n,)
        Pitch (no NaN) and loudness in dB at 5 ms frames.
    sensitivity : float
        0 as shipped; positive finds more notes, negative fewer.  The number
        of cuts never falls as it rises: only the cost per cut changes.
    """
    cents = np.ascontiguousarray(100.0 * midi)
    n = len(cents)
    if n * HOP_S < 2 * MIN_NOTE_S:
        return []
    easier = 2.0 ** (-sensitivity)
    peaks, way_prices = _possible_cuts(cents)
    dips = _level_dips(level, DIP_DB * easier**0.3)
    frames = np.concatenate((peaks, dips)).astype(np.int64)
    cost = np.concatenate((CUT_COST_FRAMES * easier + way_prices, np.full(len(dips), -DIP_GAIN)))
    order = np.argsort(frames, kind="stable")
    places = np.concatenate(([0], frames[order], [n])).astype(np.int64)
    prices = np.concatenate(([0.0], cost[order], [0.0]))
    tables, sums = _rate_tables(cents)
    chosen = _cheapest_cuts(cents, places, prices, TOLERANCE_CENTS, tables, sums, int(MIN_NOTE_S / HOP_S))
    return [int(places[i]) for i in chosen[1:-1]]


def _level_dips(level: Floats, depth_db: float) -> list[int]:
    """Frames where the level starts to fall by `depth_db` below both sides: a repeated note.

    The consonant that makes the dip begins the next note, so the cut lies at
    the start of the fall.
    """
    found = []
    reach = int(DIP_REACH_S / HOP_S)
    dips, _ = ss.find_peaks(-level, prominence=depth_db, distance=reach // 2)
    for dip in dips:
        before = level[max(0, dip - reach) : dip]
        after = level[dip + 1 : dip + 1 + reach].max(initial=-999.0)
        if len(before) == 0 or min(before.max(), after) - level[dip] < depth_db:
            continue
        still_full = np.flatnonzero(before > before.max() - 0.35 * (before.max() - level[dip]))
        found.append(int(dip - len(before) + still_full[-1] + 1))
    return found


def note_ranges(midi: Floats, level: Floats, *, sensitivity: float = 0.0) -> list[tuple[int, int]]:
    """Half-open frame ranges of the notes in a whole contour (NaN = unvoiced), in time order."""
    found = []
    for a, b in runs(np.isfinite(midi)):
        if (b - a) * HOP_S < MIN_NOTE_S * 0.75:
            continue
        cuts = cut_run(midi[a:b], level[a:b], sensitivity=sensitivity)
        edges = [0, *cuts, b - a]
        found += [(a + x, a + y) for x, y in zip(edges[:-1], edges[1:], strict=True)]
    return found
