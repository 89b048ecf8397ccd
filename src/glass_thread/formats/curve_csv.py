"""Curves of wanted pitch, and maps of time, from CSV."""

from __future__ import annotations

import csv
from pathlib import Path

import numpy as np

from ..core.signal.errors import ParameterError
from ..core.signal.types import Contour, Floats


def read_curve(path: Path, contour: Contour) -> Floats:
    """Targets from a CSV with the columns time_s, target_midi, on the grid of `contour`; NaN where none is near."""
    try:
        with path.open(newline="") as file:
            rows = [(float(r["time_s"]), float(r["target_midi"] or "nan")) for r in csv.DictReader(file)]
    except (OSError, KeyError, ValueError, UnicodeDecodeError) as error:
        raise ParameterError(f"{path.name} is not a curve: it needs the columns time_s,target_midi.") from error
    table = np.array(rows, dtype=np.float64).reshape(-1, 2)
    if len(table) < 2 or not np.isfinite(table[:, 0]).all() or (np.diff(table[:, 0]) <= 0).any():
        raise ParameterError(f"{path.name} is not a curve: times must rise from row to row, with two rows at least.")
    known = table[np.isfinite(table[:, 1]) & (table[:, 1] > 0)]
    if len(known) == 0 or known[:, 1].max() > 127:
        raise ParameterError(f"{path.name} has no usable target; MIDI pitches from 1 to 127 are expected.")
    wanted = np.interp(contour.times, known[:, 0], known[:, 1])
    spacing = max(float(np.median(np.diff(table[:, 0]))) * 1.5, contour.hop_s * 1.5)
    place = np.clip(np.searchsorted(known[:, 0], contour.times), 1, len(known) - 1) if len(known) > 1 else None
    if place is None:
        return np.where(np.abs(contour.times - known[0, 0]) <= spacing, wanted, np.nan)
    gap = np.minimum(np.abs(contour.times - known[place - 1, 0]), np.abs(known[place, 0] - contour.times))
    return np.where(gap <= spacing, wanted, np.nan)


def read_time_map(path: Path, duration_s: float) -> list[tuple[float, float]]:
    """Moments of a recording and of its track, in seconds, from a CSV with the columns source_s, track_s."""
    try:
        with path.open(newline="") as file:
            rows = [(float(row["source_s"]), float(row["track_s"])) for row in csv.DictReader(file)]
    except (OSError, KeyError, TypeError, ValueError, UnicodeDecodeError) as error:
        raise ParameterError(f"{path.name} is not a time map: it needs the columns source_s,track_s.") from error
    table = np.array(rows, dtype=np.float64).reshape(-1, 2)
    if len(table) == 0 or not np.isfinite(table).all() or (np.diff(table, axis=0) <= 0).any() or table.min() < 0:
        raise ParameterError(f"{path.name} is not a time map: both times must rise from row to row, from 0 on.")
    if table[0, 0] == 0.0 != table[0, 1]:
        raise ParameterError(f"{path.name}: the recording begins where the track begins, so source 0 goes to track 0.")
    if table[-1, 0] > duration_s + 0.001:
        raise ParameterError(f"{path.name} names a moment after the end of the recording ({duration_s:.3f} s).")
    return [(min(float(a), duration_s), float(b)) for a, b in table]
