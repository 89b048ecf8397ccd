"""The parts of a note's sung contour that its faders act on: scoop, fall, drift, vibrato, fine.

With the centre they add up to the contour.

Drift and vibrato are bands of the note's body, whatever moves there: a fader never asks whether a movement is regular.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ...signal.order import median_of, quantile_of
from ...signal.prediction import read_on_at_ends
from ...signal.signal_tools import fill_gaps, smoothstep
from ...signal.smoothing import low_pass
from ...signal.types import HOP_S, Floats

DRIFT_HIGH_HZ = 2.6  # between drift and vibrato
FINE_FROM_HZ = 15.0  # between vibrato and fine, so that what moves at 9 Hz is vibrato
_READ_ON = 60  # frames beyond the ends in which a swing finds its other half
_OUT, _SPREAD = 0.3, 1.3  # semitones, and times the body's own movement, beyond which an end leaves its band
_LEAST = 0.4  # semitones that a scoop or fall goes at least
_LONGEST_S, _LONGEST_SHARE = 0.3, 0.45  # of a note that its way in or out may take
_KEPT_SHARE = 0.2  # of a note in which a longer way is kept, so that the body is flat when it is asked to be
_ARRIVED = 0.35  # of how far off it began at most where it ends
_BACK = 0.15  # semitones by which a way in one direction may turn back


@dataclass(frozen=True)
class NoteParts:
    """Parts of one note's contour, in semitones, each of shape (n,), but `centre` (MIDI).

    Attributes
    ----------
    centre : float
        Where the note is heard.
    scoop, fall : ndarray
        The way in and the way out, where they leave the band in which the body moves; 0 elsewhere.
    body : ndarray
        What is between, less the centre: all that moves slower than `FINE_FROM_HZ`.
    fine : ndarray
        What moves faster: the voice itself.
    """

    centre: float
    scoop: Floats
    fall: Floats
    body: Floats
    fine: Floats

    @cached_property
    def drift(self) -> Floats:
        """What of the body moves slower than `DRIFT_HIGH_HZ`."""
        n = len(self.body)
        return low_pass(read_on_at_ends(self.body, _READ_ON), DRIFT_HIGH_HZ)[_READ_ON : _READ_ON + n]

    @property
    def vibrato(self) -> Floats:
        """The rest of the body."""
        return self.body - self.drift


def note_parts(midi: Floats, centre: float) -> NoteParts:
    """Split the contour of one note.

    Parameters
    ----------
    midi : ndarray, shape (n,)
        Sung pitch at 5 ms frames; NaN (unvoiced) frames are bridged.
    centre : float
        Where the note is heard, in MIDI (see `contour.split_contour`).
    """
    pitch = fill_gaps(np.asarray(midi, dtype=np.float64))
    smooth = low_pass(pitch, FINE_FROM_HZ)
    scoop = _way_in(smooth)
    fall = _way_in(smooth[::-1])[::-1]
    return NoteParts(centre, scoop, fall, smooth - scoop - fall - centre, pitch - smooth)


def _way_in(smooth: Floats) -> Floats:
    """The scoop of a smoothed contour, shape (n,): what lies off the level it ends on, leaving without a corner."""
    n = len(smooth)
    end = _end_of_way(smooth)
    scoop = np.zeros(n)
    if end == 0:
        return scoop
    last = min(end, max(4, int(_KEPT_SHARE * n)))
    leave = max(3, (2 * last) // 3)
    share = 1.0 - smoothstep((np.arange(last) - (last - leave) + 0.5) / leave)
    scoop[:last] = share * (smooth[:last] - smooth[end])
    return scoop


def _end_of_way(smooth: Floats) -> int:
    """Frames until a way in has arrived; 0 where the note begins in its band, wanders, or is under way too long."""
    n = len(smooth)
    body = smooth[n // 4 : max(n // 4 + 1, n - n // 4)]
    level = median_of(body)
    band = max(_OUT, _SPREAD * quantile_of(np.abs(body - level), 0.85))
    longest = min(int(_LONGEST_S / HOP_S), int(_LONGEST_SHARE * n))
    off = smooth[: longest + 1] - level
    outside = np.abs(off) > band
    if longest < 4 or not outside[:3].any():
        return 0
    first = int(np.argmax(outside))
    side = np.sign(off[first])
    away = side * off
    inside = np.flatnonzero(~outside[first:] | (away[first:] <= 0.0))
    if len(inside) == 0:
        return 0
    end = first + int(inside[0])
    while end < longest and 0.0 < away[end + 1] < away[end]:
        end += 1
    top = int(np.argmax(away[:end]))
    turns_back = np.diff(away[top : end + 1])
    arrives = max(away[end], 0.0) < _ARRIVED * away[top]
    if not arrives or away[top] - max(away[end], 0.0) < _LEAST or turns_back[turns_back > 0].sum() > _BACK:
        return 0
    return end
