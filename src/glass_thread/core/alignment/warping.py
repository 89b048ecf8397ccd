"""Which moment of a lead a moment of another performance belongs to.

Dynamic time warping (Sakoe and Chiba 1978, from memory) over features without pitch, within a band around the same
time and with steps of a half to twice the pace, so that it never folds and never stands still.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numba
import numpy as np

from ..signal.types import HOP_S, Floats

REACH_S = 1.0  # as far as the two may be apart
_OFF_PACE = 1.0  # what a frame at another pace costs, so that nothing drags without a reason
_MOST = 0.85  # what a frame costs at most, so that a word that only one of them sings does not draw others to its place
_FORCED = 1000.0
_SILENCE = -1.0  # loudness and voicing of what lies beyond the lead's ends


@dataclass(frozen=True)
class Alignment:
    """The moment of the lead, in seconds, for every analysis frame of the follower, and how unlike they are there."""

    lead_s: Floats
    unlike: Floats

    def at(self, follower_s: float) -> float:
        """The lead's moment for one of the follower."""
        frames = np.arange(len(self.lead_s))
        return float(np.interp(follower_s / HOP_S, frames, self.lead_s)) if len(frames) else follower_s


def align(
    follower: Floats, lead: Floats, later_s: float = 0.0, *, anchors: Sequence[tuple[float, float]] = (),
    reach_s: float = REACH_S,
) -> Alignment:  # fmt: skip
    """Align two performances by their features, shape (n, k) and (m, k), one row an analysis frame.

    `later_s` is by how much the follower's clock is later than the lead's; moments of the lead are on its own clock.
    `anchors` are pairs of moments, of the lead and of the follower, that belong together whatever they sound like.
    """
    n = len(follower)
    if n < 3 or len(lead) < 3:
        return Alignment(np.arange(n) * HOP_S + later_s, np.zeros(n))
    half, shift = round(reach_s / HOP_S), round(later_s / HOP_S)
    padded = np.full((n + 2 * half + 1, lead.shape[1]), 0.0)
    padded[:, -2:] = _SILENCE
    first, last = max(0, shift - half), min(len(lead), shift + n + half + 1)
    if first < last:
        at = first - shift + half
        padded[at : at + last - first] = lead[first:last]
    forced = np.full(n, -1)
    for lead_s, follower_s in anchors:
        frame, column = round(follower_s / HOP_S), round((lead_s - follower_s) / HOP_S) - shift + half
        if 0 <= frame < n and 0 <= column <= 2 * half:
            forced[frame] = column
    rows = np.ascontiguousarray(follower, dtype=np.float64)
    offsets, unlike = _warped(rows, padded, half, forced, _OFF_PACE, _MOST)
    return Alignment((np.arange(n) + shift + offsets) * HOP_S, unlike)


@numba.njit(cache=True, nogil=True, fastmath=True)
def _warped(follower, padded, half, forced, off_pace, most):  # type: ignore[no-untyped-def]  # pragma: no cover - compiled
    """Frames by which the lead's moment lies later, for every frame of the follower, and the distance there.

    `padded` holds the lead from `half` frames before the follower's first one on; column w of row i is offset w - half.
    """
    n, k, width = follower.shape[0], follower.shape[1], 2 * half + 1
    moves = np.zeros((n, width), dtype=np.uint8)
    rows = np.full((3, width), np.inf)
    costs = np.zeros((2, width))
    for i in range(n):
        here, before, earlier = rows[i % 3], rows[(i - 1) % 3], rows[(i - 2) % 3]
        cost, cost_before = costs[i % 2], costs[(i - 1) % 2]
        for w in range(width):
            distance = 0.0
            for c in range(k):
                apart = follower[i, c] - padded[i + w, c]
                distance += apart * apart
            cost[w] = min(np.sqrt(distance), most)
            if forced[i] >= 0 and abs(w - forced[i]) > 1:
                cost[w] += _FORCED
        for w in range(width):
            if i < 2:
                here[w] = cost[w] + 0.002 * abs(w - half)
                moves[i, w] = 0
                continue
            best, move = before[w] + 2.0 * cost[w], 0
            if w >= 1:  # lead by two frames, follower by one: the offset grows
                found = before[w - 1] + 1.5 * (cost[w] + cost[w - 1]) + off_pace
                if found < best:
                    best, move = found, 1
            if w + 1 < width:  # follower by two, lead by one: it shrinks
                found = earlier[w + 1] + 1.5 * (cost[w] + cost_before[w + 1]) + off_pace
                if found < best:
                    best, move = found, 2
            here[w] = best
            moves[i, w] = move
    w = int(np.argmin(rows[(n - 1) % 3]))
    offsets, unlike = np.zeros(n), np.zeros(n)
    i = n - 1
    while i >= 0:
        offsets[i] = w - half
        move = moves[i, w]
        if move == 1:
            w -= 1
            i -= 1
        elif move == 2 and i >= 1:
            w += 1
            i -= 1
            offsets[i] = w - half - 0.5
            i -= 1
        else:
            i -= 1
    for i in range(n):
        w = int(offsets[i]) + half
        distance = 0.0
        for c in range(k):
            apart = follower[i, c] - padded[i + w, c]
            distance += apart * apart
        unlike[i] = np.sqrt(distance)
    return offsets, unlike
