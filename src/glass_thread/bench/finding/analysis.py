"""What the benchmark measures of the analysis: pitch, confidence, notes, air, contour, key, speed and memory."""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from ...core.analysis.analysis import analyse
from ...core.analysis.pitch.f0 import track_f0
from ...core.measure import evaluation as ev
from ...core.signal.types import HOP_S, Analysis, Floats
from ...demo.score import Performance
from ...demo.singer import Sung
from ..sound.references import reference_trackers

Row = dict[str, Any]
Takes = dict[str, tuple[Performance, Sung]]


def timed(work: Callable[[], Any]) -> tuple[Any, float]:
    """Result of `work` and the seconds of processor time it took."""
    begun = time.process_time()
    result = work()
    return result, time.process_time() - begun


def truth_on_grid(sung: Sung) -> Floats:
    """The true pitch at the analysis frames."""
    frames = int(len(sung.audio) / sung.sample_rate / HOP_S) + 1
    place = np.minimum(np.round(np.arange(frames) * HOP_S * sung.sample_rate).astype(np.int64), len(sung.midi) - 1)
    return sung.midi[place]


def found_notes(found: Analysis) -> list[ev.NoteTruth]:
    """Start and end in seconds and pitch in MIDI of the notes of an analysis."""
    return [(note.start_s, note.end_s, note.centre_midi) for note in found.notes]


def sung_notes(performance: Performance) -> list[ev.NoteTruth]:
    """The same of the notes that were sung."""
    return [(note.start_s, note.end_s, note.midi + note.off / 100) for note in performance.notes]


def bench_pitch(takes: Takes) -> list[Row]:
    """One row a tracker: means over the voices (the longest octave error: worst), and times real time on one core."""
    rows = []
    trackers = {"glass thread": lambda x, rate: track_f0(x, rate).midi, **reference_trackers()}
    for name, track in trackers.items():
        scores, seconds, length = [], 0.0, 0.0
        for _, sung in takes.values():
            midi, spent = timed(partial(track, sung.audio, sung.sample_rate))
            scores.append(ev.pitch_scores(midi, truth_on_grid(sung)))
            seconds += spent
            length += len(sung.audio) / sung.sample_rate
        mean = {key: float(np.mean([getattr(s, key) for s in scores])) for key in vars(scores[0])}
        mean["octave_s"] = max(s.octave_s for s in scores)
        rows.append({"tracker": name, **mean, "x_real_time": length / max(seconds, 1e-9)})
    return rows


def bench_confidence(takes: Takes, seed: int) -> list[Row]:
    """One row a band of confidence: what was said, and the share right within 50 cents; clean and in white noise."""
    rng = np.random.default_rng(seed)
    said, right = [], []
    for _, sung in takes.values():
        truth = truth_on_grid(sung)
        loudness = np.sqrt(np.mean(sung.audio**2))
        for noise_db in (-120.0, -10.0, 5.0, 10.0):
            noise = rng.standard_normal(len(sung.audio)) * loudness * 10 ** (noise_db / 20)
            found = track_f0(sung.audio + noise, sung.sample_rate)
            voiced = np.isfinite(found.midi)
            said.append(found.confidence[voiced])
            right.append(np.abs(found.midi[voiced] - np.nan_to_num(truth[voiced], nan=-99.0)) < 0.5)
    confidence, correct = np.concatenate(said), np.concatenate(right)
    rows = []
    for low, high in ((0.0, 0.6), (0.6, 0.75), (0.75, 0.85), (0.85, 0.95), (0.95, 1.01)):
        inside = (confidence >= low) & (confidence < high)
        if inside.any():
            means = (float(confidence[inside].mean()), float(correct[inside].mean()))
            rows.append({"band": f"{low:.2f} to {min(high, 1):.2f}", "frames": int(inside.sum()),
                         "said": means[0], "right": means[1]})  # fmt: skip
    return rows


def bench_notes(takes: Takes) -> list[Row]:
    """One row a voice: note F with and without offsets, centre error, vibrato and drift, air F, key, speed."""
    rows = []
    for name, (performance, sung) in takes.items():
        found, spent = timed(partial(analyse, sung.audio, sung.sample_rate))
        truth, notes = sung_notes(performance), found_notes(found)
        matched = ev.match_notes(notes, truth, offsets=False)
        error = [100 * abs(notes[i][2] - truth[j][2]) for i, j in matched]
        rows.append(
            {
                "voice": name,
                "note_f1": ev.note_f1(notes, truth),
                "note_f1_offsets": ev.note_f1(notes, truth, offsets=True),
                "centres_within_5": float(np.mean(np.array(error) < 5)) if error else 0.0,
                **_contour_errors(found, performance, matched),
                "sibilant_f1": _air_f1(found, performance, "sibilant"),
                "breath_f1": _air_f1(found, performance, "breath"),
                "x_real_time": len(sung.audio) / sung.sample_rate / spent,
            }
        )
    return rows


def _contour_errors(found: Analysis, performance: Performance, matched: list[tuple[int, int]]) -> Row:
    """Errors of vibrato rate (Hz) and extent (share) where at least three cycles are sung, and invented vibrato."""
    rate, extent, invented, straight = [], [], 0, 0
    for i, j in matched:
        read, sung = found.notes[i].vibrato, performance.notes[j]
        if sung.vibrato_cents == 0:
            straight += 1
            invented += read is not None
        elif read is not None and (sung.end_s - sung.start_s - sung.vibrato_onset_s) * sung.vibrato_hz > 3.0:
            rate.append(abs(read.rate_hz - sung.vibrato_hz))
            extent.append(abs(read.extent_cents / sung.vibrato_cents - 1.0))
    return {
        "vibrato_rate_hz": float(np.median(rate)) if rate else float("nan"),
        "vibrato_extent": float(np.median(extent)) if extent else float("nan"),
        "vibrato_invented": invented / straight if straight else float("nan"),
    }


def _air_f1(found: Analysis, performance: Performance, kind: str) -> float:
    times = found.contour.times
    masks = []
    for events in (found.air, performance.air):
        mask = np.zeros(len(times), dtype=bool)
        for event in events:
            if event.kind == kind:
                mask |= (times >= event.start_s) & (times < event.end_s)
        masks.append(mask)
    return ev.mask_f1(*masks)


def bench_length(takes: Takes, minutes: int = 10) -> list[Row]:
    """Analysis of one long recording: times real time, and the process's memory before and at its peak in MB."""
    sung = [take.audio.astype(np.float32) for _, take in takes.values()]
    rate = next(iter(takes.values()))[1].sample_rate
    once = np.concatenate(sung)
    long = np.tile(once, int(np.ceil(minutes * 60 * rate / len(once))))[: minutes * 60 * rate]
    before = _memory_mb("VmRSS")
    found, spent = timed(partial(analyse, long, rate))
    return [{"minutes": minutes, "notes": len(found.notes), "x_real_time": minutes * 60 / spent,
             "memory_before_mb": before, "peak_memory_mb": _memory_mb("VmHWM")}]  # fmt: skip


def _memory_mb(name: str) -> float:
    """A figure of the process's memory as the kernel tells it; NaN where it does not."""
    try:
        with open("/proc/self/status") as status:
            return next(int(line.split()[1]) / 1024 for line in status if line.startswith(name))
    except OSError:
        return float("nan")
