"""The recording laid out in the track's time: rigid pieces copied, silence and breaths joined in their middle.

What lies in a stretched vowel is joined in the same way until the rendered vowel is laid over it.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..plan.time_map import TimeMap
from ..signal.types import Floats

JOIN_S = 0.03
Read = Callable[[int, int], Floats]


def placed(
    read: Read, n_samples: int, time_map: TimeMap, begin: int, end: int, sample_rate: int, *, blends: bool = True
) -> Floats:
    """Track samples [begin, end) before anything is rendered, shape (channels, end - begin); silence beyond the take.

    `read(a, b)` gives samples [a, b) of the recording, which has `n_samples`.  Without `blends`, what is no sample of
    the recording is NaN.
    """
    out = np.zeros((read(0, 0).shape[0], end - begin))
    for a, b, start, stop in time_map.pieces(begin, end):
        low, high = max(begin, start), min(end, stop)
        if low >= high:
            continue
        if b - a == stop - start:
            first, last = max(low - start + a, 0), min(high - start + a, n_samples)
            if first < last:
                at = first - a + start - begin
                out[:, at : at + last - first] = read(first, last)
        else:
            join = round(JOIN_S * sample_rate)
            here = slice(low - begin, high - begin)
            out[:, here] = _joined(read, a, b, stop - start, low - start, high - start, join)
            if not blends:
                share = _share(np.arange(low - start, high - start), stop - start, join)
                out[:, here][:, (share > 0.0) & (share < 1.0)] = np.nan
    return out


def _share(at: NDArray[np.int64], length: int, join: int) -> Floats:
    """How far the end of a piece has taken over from its beginning, 0 to 1."""
    width = max(1, min(join, length // 2))
    return np.clip((at - (length - width) / 2) / width, 0.0, 1.0)


def _joined(read: Read, a: int, b: int, length: int, first: int, last: int, join: int) -> Floats:
    """Samples [first, last) of the piece [a, b) made `length` long: its beginning, its end, and a blend between.

    Where it is more than twice as long as before, it runs to and fro.  The two sides are not alike, so their powers
    are blended.
    """
    at = np.arange(first, last)
    share = _share(at, length, join)
    out = np.zeros((read(0, 0).shape[0], last - first))
    for weight, inside in ((np.cos(share * np.pi / 2), at), (np.sin(share * np.pi / 2), b - a - length + at)):
        heard = weight > 1e-9
        if heard.any():
            out[:, heard] += weight[heard] * _picked(read, a, _to_and_fro(inside[heard], b - a))
    return out


def _to_and_fro(index: NDArray[np.int64], n: int) -> NDArray[np.int64]:
    """Indices of a piece of `n` samples that is read back and forth."""
    turned = index % (2 * n)
    return np.where(turned < n, turned, 2 * n - 1 - turned)


def _picked(read: Read, a: int, index: NDArray[np.int64]) -> Floats:
    low, high = int(index.min()), int(index.max()) + 1
    return read(a + low, a + high)[:, index - low]
