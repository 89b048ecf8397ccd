"""What glazes add to the correction: a pull to allowed pitches that arrives with a settle time.

The pull is worked out from what notes hold, not from single frames.  Each pitch that a note holds has one allowed pitch
that it belongs to, so nothing flickers between two; on the way from one to the next the pull passes over smoothly, so
that the singer's own glides keep their shape; a first-order lag lets it arrive, in the time of the track.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import scipy

from ...analysis.notes.contour import split_contour
from ...analysis.notes.note_parts import note_parts
from ...document.gestures import EDITION, note_frames
from ...document.items.glazes import Glaze
from ...document.notes import EditedNote
from ...document.time.stretches import Stretch
from ...signal.signal_tools import runs, smoothstep
from ...signal.types import HOP_S, Floats
from ...song.keys import KeyMap
from ...song.tuning import Tuning
from .vibrato import frames_in_track

_FEWEST_FRAMES = 4  # of a note that can be split into centre and movement
_NEARER = 0.15  # semitones by which another pitch must be nearer to be one of its own inside a note
_STEADY = 3.0  # semitones a second; what moves faster is on its way and holds no pitch
_HELD = 0.7  # semitones around the middle of a held pitch; what lies further off is a glide
_BORDER = 10  # frames on both sides of a border in which the pull passes over, so slowly that nothing warbles
_CALM = 9.0  # frames of smoothing, so that no pull adds movement between 8 and 20 Hz
_FADE = 14  # frames over which the pull leaves before what is left alone


class Held(NamedTuple):
    """A pitch that is held over frames [first, last); the semitones by which it lies, without its vibrato, under its
    allowed pitch; and those that the vibrato adds to that, where it is not kept."""

    first: int
    last: int
    under: Floats
    swing: Floats


def fill_glaze(
    total: Floats, midi: Floats, correction: Floats, level_db: Floats, ordered: Sequence[EditedNote],
    glazes: Sequence[Glaze], keys: KeyMap, stretches: Sequence[Stretch] = (), *, reach: tuple[int, int],
) -> None:  # fmt: skip
    """Write what glazes add to a correction, in semitones, into `total`, shape (n_frames,), which is 0 there.

    Parameters
    ----------
    midi, correction, level_db : ndarray, shape (n_frames,)
        The sung pitch as it is heard (NaN in air and silence), what the notes ask for, and the level of the sound.
    ordered : sequence of EditedNote
        In order of time; all those of every sung-through stretch that one of them lies in.
    glazes, keys, stretches
        All that reach near the notes.
    reach : tuple of int
        Frames [first, last) that are worked out: what is sung through at an end of them ends there, whatever notes
        there are.  A pull settles from where the voice sets in, which may be before the first note of a stretch.
    """
    if not glazes or not ordered:
        return
    n = len(total)
    first, last = reach
    voiced = np.isfinite(midi)
    for glaze in glazes:
        a, b = max(first, round(glaze.start_s / HOP_S)), min(last, round(glaze.end_s / HOP_S))
        if a >= b:
            continue
        spans = {note_frames(e.note, n): keys.of(e.note) for e in ordered}
        held = {span: _held(glaze, tuning, midi, correction, level_db, span)
                for span, tuning in spans.items() if span[0] < b and span[1] > a}  # fmt: skip
        alone = [note_frames(e.note, n) for e in ordered if e.leave_as_sung]
        for c, d in runs(voiced[first:last]):
            run = (first + c, first + d)
            if run[0] < b and run[1] > a:
                _fill_run(total, run, (max(a, run[0]), min(b, run[1])), held, alone, glaze, stretches)


def _held(
    glaze: Glaze, tuning: Tuning, midi: Floats, correction: Floats, level_db: Floats, span: tuple[int, int]
) -> list[Held]:
    """The pitches that a note holds long enough to count, in order of time."""
    a, b = span
    if b - a < max(_FEWEST_FRAMES, round(glaze.shortest_ms / 1000.0 / HOP_S)) or not np.isfinite(midi[a:b]).any():
        return []
    sung = midi[a:b] + correction[a:b]
    fitted = split_contour(sung, level_db[a:b])
    parts = note_parts(sung, fitted.centre) if glaze.edition >= EDITION else fitted
    slow = parts.centre + parts.drift
    moves = slow if glaze.keep_vibrato else slow + parts.vibrato
    tolerance = glaze.tolerance_cents / 100.0
    wanted = _wanted(slow, tuning.nearest(fitted.centre, glaze.rounding), tuning, glaze)
    found = []
    for c, d in _even_runs(wanted):
        near = np.abs(slow[c:d] - np.median(slow[c:d])) <= _HELD
        for e, f in runs(near):
            part = slice(c + e, c + f)
            under, all_under = (_beyond(wanted[part] - line[part], tolerance) for line in (slow, moves))
            found.append(Held(a + c + e, a + c + f, under, all_under - under))
    return found


def _wanted(slow: Floats, main: float, tuning: Tuning, glaze: Glaze) -> Floats:
    """The allowed pitch of every frame: the note's own, but where another one is held long enough inside it."""
    wanted = np.full(len(slow), main)
    nearest = tuning.all_nearest(slow, glaze.rounding)
    steady = np.abs(np.gradient(slow, HOP_S)) < _STEADY
    other = steady & (np.abs(slow - nearest) + _NEARER < np.abs(slow - main))
    for c, d in runs(other):
        for e, f in _even_runs(nearest[c:d]):
            if (f - e) * HOP_S * 1000.0 >= glaze.shortest_ms:
                wanted[c + e : c + f] = nearest[c + e]
    return wanted


def _even_runs(values: Floats) -> list[tuple[int, int]]:
    """Half-open index ranges of equal neighbours."""
    edges = [0, *(1 + np.flatnonzero(np.diff(values))).tolist(), len(values)]
    return list(itertools.pairwise(edges))


def _beyond(under: Floats, tolerance: float) -> Floats:
    """The part of a distance that lies beyond a tolerance."""
    return np.sign(under) * np.maximum(np.abs(under) - tolerance, 0.0)


def _fill_run(
    total: Floats, run: tuple[int, int], within: tuple[int, int], held: dict[tuple[int, int], list[Held]],
    alone: list[tuple[int, int]], glaze: Glaze, stretches: Sequence[Stretch],
) -> None:  # fmt: skip
    """The pull over the part `within` a sung-through run of frames, but in those that are left `alone`."""
    c, d = run
    every = [one for pieces in held.values() for one in pieces]
    slow, swing = (glaze.strength * _demand(run, every, part) for part in ("under", "swing"))
    free = np.ones(d - c, dtype=bool)
    calm = [span for span, pieces in held.items() if pieces and not any(p.under.any() or p.swing.any() for p in pieces)]
    for a, b in calm + alone:
        free[max(a - c, 0) : max(b - c, 0)] = False
    free[: within[0] - c] = free[within[1] - c :] = False
    for e, f in runs(free):
        at = frames_in_track(c + e, c + f, stretches)
        arrived, swinging = (settled(part[e:f], glaze.settle_ms, at) for part in (slow, swing))
        if glaze.keep_vibrato or glaze.edition < EDITION:
            arrived = scipy.ndimage.gaussian_filter1d(arrived, _CALM, mode="nearest")
        pull = arrived + swinging
        if f < d - c:  # what follows is left alone to the bit
            fade = min(_FADE, f - e)
            pull[-fade:] *= smoothstep((fade - np.arange(fade) - 0.5) / fade)
        if e > 0:
            rise = min(_FADE, f - e)
            pull[:rise] *= smoothstep((np.arange(rise) + 0.5) / rise)
        total[c + e : c + f] = pull


def _demand(run: tuple[int, int], held: Sequence[Held], part: str) -> Floats:
    """The pull that is asked for in each frame of a run: between held pitches it passes over smoothly."""
    c, d = run
    known = np.full(d - c, np.nan)
    for one in held:
        border = min(_BORDER, (one.last - one.first - 1) // 2)
        first = one.first + (border if one.first > c else 0)
        last = one.last - (border if one.last < d else 0)
        low, high = max(first, c), min(last, d)
        if low < high:
            known[low - c : high - c] = getattr(one, part)[low - one.first : high - one.first]
    at = np.flatnonzero(np.isfinite(known))
    if len(at) == 0:
        return np.zeros(d - c)
    after = np.clip(np.searchsorted(at, np.arange(d - c)), 0, len(at) - 1)
    before = np.where(at[after] > np.arange(d - c), np.maximum(after - 1, 0), after)
    left, right = at[before], at[after]
    along = smoothstep((np.arange(d - c) - left) / np.maximum(right - left, 1))
    return known[left] + along * (known[right] - known[left])


def settled(demand: Floats, settle_ms: float, track_frames: Floats | None = None) -> Floats:
    """A demand, shape (n,), as it is arrived at: 63 % (1 − 1/e) of a step after the settle time.

    `track_frames` says where the frames come to lie when the track is stretched.
    """
    if settle_ms <= 0.0 or len(demand) == 0:
        return demand.copy()
    share = -np.expm1(-1000.0 * HOP_S / settle_ms)
    if track_frames is None:
        return scipy.signal.lfilter([share], [1.0, share - 1.0], demand)
    even = np.arange(track_frames[0], track_frames[-1] + 1.0)
    arrived = scipy.signal.lfilter([share], [1.0, share - 1.0], np.interp(even, track_frames, demand))
    return np.interp(track_frames, even, arrived)
