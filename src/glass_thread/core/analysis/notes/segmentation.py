"""Cut each voiced run into notes.

Possible cuts are the places of steepest pitch. Among them dynamic programming
picks the cuts for which every piece lies close to one steady pitch, vibrato
taken out; each cut costs a little, and more the slower the way across it, so
that scoops and falls stay with their note.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable

import numba
import numpy as np
import scipy
from numpy.typing import NDArray

from ...signal.signal_tools import local_polynomial, runs
from ...signal.types import HOP_S, Floats

STEADY_CENTS, WANDERING_CENTS = 4.0, 12.0  # by which a run moves in 40 ms, usually
TOLERANCES_CENTS = (55.0, 120.0)  # from which a frame counts as fully off its note, for the two
WANDER_FRAMES = 8
CUT_COST_FRAMES = 4.5
SLOW_WAY_COST = 0.45  # frames of cost for each frame the way across takes
WIDE_CENTS = 250.0  # over which a way may take longer for the same cost: no scoop is so wide
OFF_STEEPEST_COST = 14.0
DIP_GAIN = 4.0  # frames that a level dip is worth
MIN_TURNS = 4
MIN_SWING_CENTS = 14.0
LIKE_SIZE = 2.5
ROUNDNESS = 2.6  # steepest over mean slope of a swing; a sine has 1.57
MIN_SLOPE = 350.0  # cents per second at a possible cut
MIN_NOTE_S = 0.06
SLIVER_S, ALIKE_CENTS = 0.09, 55.0
TAIL_S, TAIL_DB, TAIL_CENTS = 0.16, 10.0, 100.0
DIP_DB = 6.5
DIP_IN_VIBRATO_DB = 12.0  # a room makes partials that swing louder and softer; a consonant stops the swing
DIP_REACH_S = 0.11
LONGEST_PIECE = 70  # possible cuts looked back over


@numba.njit(cache=True, nogil=True)
def middle_of(values):  # pragma: no cover - compiled
    """Median, by C. A. R. Hoare, "Algorithm 65: find", Comm. ACM 4, 1961; that of numpy takes 3 s to compile."""
    part = values.copy()
    half = len(part) // 2
    low, high = 0, len(part) - 1
    while low < high:
        pivot = part[half]
        i, j = low, high
        while i <= j:
            while part[i] < pivot:
                i += 1
            while part[j] > pivot:
                j -= 1
            if i <= j:
                part[i], part[j] = part[j], part[i]
                i += 1
                j -= 1
        if j < half:
            low = i
        if i > half:
            high = j
    if len(part) % 2:
        return part[half]
    below = part[0]
    for k in range(1, half):
        below = max(below, part[k])
    return (below + part[half]) / 2.0


@numba.njit(cache=True, nogil=True, fastmath=True)
def misfit(p, a, b, tolerance):  # pragma: no cover - compiled
    """Misfit in frames of p[a:b] to its median pitch; each frame costs 0 to 1."""
    middle = middle_of(p[a:b])
    cost = 0.0
    for i in range(a, b):
        off = (p[i] - middle) / tolerance
        cost += min(off * off, 1.0)
    return cost


@numba.njit(cache=True, nogil=True)
def _cheapest_cuts(p, places, prices, tolerance, shortest):  # pragma: no cover - compiled
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
            cost += misfit(p, places[i], places[j], tolerance)
            if cost < total[j]:
                total[j] = cost
                previous[j] = i
    chosen = [m - 1]
    while chosen[-1] != 0:
        chosen.append(previous[chosen[-1]])
    return np.array(chosen[::-1])


def vibrato_midline(cents: Floats) -> Floats:
    """The contour with regular swings of vibrato speed replaced by the line half-way between their turning points.

    Swings count when at least four turning points follow each other at 55 to
    140 ms, of like size, and as round as a sine: steps between steady notes
    are much steeper for their size.
    """
    n = len(cents)
    smooth = local_polynomial(cents, 5, 2) if n > 5 else cents
    turns = np.flatnonzero(np.diff(np.signbit(np.diff(smooth)))) + 1
    turns = _big_turns(smooth, turns)
    if len(turns) < MIN_TURNS:
        return cents
    spacing = np.diff(turns) * HOP_S
    size = np.abs(np.diff(smooth[turns]))
    steepest = np.array([np.abs(np.diff(smooth[a : b + 1])).max() for a, b in itertools.pairwise(turns)])
    round_enough = steepest / HOP_S < ROUNDNESS * size / spacing
    swing = (spacing > 0.055) & (spacing < 0.14) & round_enough & (size < 420.0)
    out = cents.copy()
    for a, b in runs(swing):
        for first, last in _alike(size, a, b):
            if last - first + 1 >= MIN_TURNS:
                _flatten(out, smooth, turns[first : last + 1])
    return out


def _big_turns(smooth: Floats, turns: NDArray[np.int64]) -> NDArray[np.int64]:
    """Turning points that stand out by `MIN_SWING_CENTS`, highs and lows in alternation."""
    kept: list[int] = []
    for t in turns:
        if len(kept) >= 2 and (smooth[t] - smooth[kept[-1]]) * (smooth[kept[-1]] - smooth[kept[-2]]) >= 0:
            kept[-1] = t
        elif kept and abs(smooth[t] - smooth[kept[-1]]) < MIN_SWING_CENTS:
            continue
        else:
            kept.append(t)
    return np.array(kept, dtype=np.int64)


def _alike(size: Floats, a: int, b: int) -> list[tuple[int, int]]:
    """Turning-point ranges (inclusive) within swings [a, b) whose neighbours differ less than `LIKE_SIZE`-fold."""
    edges = [a]
    for i in range(a + 1, b):
        if not 1.0 / LIKE_SIZE < size[i] / size[i - 1] < LIKE_SIZE:
            edges.append(i)
    edges.append(b)
    return list(itertools.pairwise(edges))


def _flatten(out: Floats, smooth: Floats, turns: NDArray[np.int64]) -> None:
    """Replace the stretch around `turns` by the line through their running middles, in place."""
    value = smooth[turns]
    middle = value.copy()
    middle[1:-1] = (value[:-2] + 2.0 * value[1:-1] + value[2:]) / 4.0
    middle[0], middle[-1] = (value[0] + value[1]) / 2.0, (value[-1] + value[-2]) / 2.0
    half = int(np.median(np.diff(turns)) / 2)
    low, high = max(0, turns[0] - half), min(len(out), turns[-1] + half + 1)
    near = np.interp(np.arange(low, high), turns, middle)
    swing = np.abs(np.diff(value)).max() * 0.6
    inside = np.abs(out[low:high] - near) <= swing
    core = (np.arange(low, high) >= turns[0]) & (np.arange(low, high) <= turns[-1])
    out[low:high] = np.where(core | inside, near, out[low:high])


def possible_cuts(cents: Floats) -> tuple[NDArray[np.int64], Floats]:
    """Frames of steepest pitch, and what a cut there costs beyond the fixed price."""
    n = len(cents)
    width = 7 if n > 8 else 5
    slope = local_polynomial(cents, width, 2, derivative=1) / HOP_S if n >= width else np.zeros(n)
    steep = np.abs(slope)
    peaks, _ = scipy.signal.find_peaks(steep, height=MIN_SLOPE, distance=3)
    prices = np.empty(len(peaks))
    for i, peak in enumerate(peaks):
        low = steep[peak] * 0.25
        a = b = peak
        while a > 0 and slope[a - 1] * slope[peak] > 0 and steep[a - 1] > low:
            a -= 1
        while b < n - 1 and slope[b + 1] * slope[peak] > 0 and steep[b + 1] > low:
            b += 1
        steepest = steep[a : b + 1].max()
        wide = min(1.0, WIDE_CENTS / max(abs(cents[b] - cents[a]), 1.0))
        prices[i] = SLOW_WAY_COST * wide * (b - a + 1) + OFF_STEEPEST_COST * (1.0 - steep[peak] / steepest)
    return peaks, prices


def tolerance(cents: Floats) -> float:
    """From how many cents on a frame is fully off its note: less where pitches are held, more where a voice wanders."""
    if len(cents) <= WANDER_FRAMES:
        return TOLERANCES_CENTS[0]
    moved = float(np.median(np.abs(cents[WANDER_FRAMES:] - cents[:-WANDER_FRAMES])))
    return float(np.interp(moved, (STEADY_CENTS, WANDERING_CENTS), TOLERANCES_CENTS))


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
    n = len(midi)
    if n * HOP_S < 2 * MIN_NOTE_S:
        return []
    cents = np.ascontiguousarray(vibrato_midline(100.0 * midi))
    easier = 2.0 ** (-sensitivity)
    peaks, way_prices = possible_cuts(cents)
    swings = np.abs(cents - 100.0 * midi) > 1e-9
    dips = _level_dips(level, np.where(swings, DIP_IN_VIBRATO_DB, DIP_DB) * easier**0.3)
    frames = np.concatenate((peaks, dips)).astype(np.int64)
    cost = np.concatenate((CUT_COST_FRAMES * easier + way_prices, np.full(len(dips), -DIP_GAIN)))
    order = np.argsort(frames, kind="stable")
    places = np.concatenate(([0], frames[order], [n])).astype(np.int64)
    prices = np.concatenate(([0.0], cost[order], [0.0]))
    chosen = _cheapest_cuts(cents, places, prices, tolerance(cents), int(MIN_NOTE_S / HOP_S))
    found = {int(dip) for dip in dips}
    cuts = [int(places[i]) for i in chosen[1:-1]]
    cuts = _without(cuts, n, lambda left, right: right.start in found and _splits_a_sliver(cents, left, right))
    return _without(cuts, n, lambda left, right: _is_a_tail(cents, level, left, right))


def _without(cuts: list[int], n: int, needless: Callable[[slice, slice], bool]) -> list[int]:
    """Cuts without those that are needless between the pieces left and right of them, judged from the first on."""
    kept = list(cuts)
    for cut in cuts:
        edges = [0, *kept, n]
        i = edges.index(cut)
        if needless(slice(edges[i - 1], cut), slice(cut, edges[i + 1])):
            kept.remove(cut)
    return kept


def _splits_a_sliver(cents: Floats, left: slice, right: slice) -> bool:
    """Whether a sliver is split off a note of the same pitch: one event was seen twice."""
    sliver = min(left.stop - left.start, right.stop - right.start) * HOP_S < SLIVER_S
    return sliver and _apart(cents, left, right) < ALIKE_CENTS


def _apart(cents: Floats, left: slice, right: slice) -> float:
    return abs(float(np.median(cents[left]) - np.median(cents[right])))


def _is_a_tail(cents: Floats, level: Floats, left: slice, right: slice) -> bool:
    """Whether a short, much softer end of nearly the same pitch is cut off: a hummed consonant, or a note that dies."""
    softer = np.median(level[left]) - np.median(level[right]) > TAIL_DB
    short = (right.stop - right.start) * HOP_S < TAIL_S
    return bool(softer) and short and _apart(cents, left, right) < TAIL_CENTS


def _level_dips(level: Floats, depth_db: Floats) -> list[int]:
    """Frames where the level starts to fall by `depth_db`, shape (n,), below both sides: a repeated note.

    The consonant that makes the dip begins the next note, so the cut lies at
    the start of the fall.
    """
    found = []
    reach = int(DIP_REACH_S / HOP_S)
    dips, _ = scipy.signal.find_peaks(-level, prominence=depth_db.min(), distance=reach // 2)
    for dip in dips:
        before = level[max(0, dip - reach) : dip]
        after = level[dip + 1 : dip + 1 + reach].max(initial=-999.0)
        if len(before) == 0 or min(before.max(), after) - level[dip] < depth_db[dip]:
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
        found += [(a + x, a + y) for x, y in itertools.pairwise(edges)]
    return found
