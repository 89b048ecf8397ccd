"""``glass-thread bench``: measure analysis, rendering and speed on voices with exact truth."""

from __future__ import annotations

import argparse
import json
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

from ..core import evaluation as ev
from ..core.analysis import analyse
from ..core.curve import curve_correction
from ..core.f0 import track_f0
from ..core.render import prepare_run, render_run, render_whole, voiced_runs
from ..core.types import HOP_S, Analysis, Floats
from ..core.units import hz_to_midi
from ..demo.singer import Sung, sing
from ..demo.voices import VOICES, random_performance, with_vibrato
from ..services.warm_up import warm_up

RATE = 48_000
CLASSES: dict[str, tuple[float, float]] = {
    "20-50": (20, 50),
    "100-200": (100, 200),
    "400": (400, 400),
    "1200": (1200, 1200),
}


def register(verbs: argparse._SubParsersAction) -> None:
    """Add the verb."""
    parser = verbs.add_parser("bench", help="measure quality and speed", description="Measure quality and speed.")
    parser.add_argument("--seed", type=int, default=1, help="another seed sings other takes (default 1)")
    parser.add_argument("--voices", default=",".join(VOICES), help="comma list (default: all)")
    parser.add_argument("--json", type=Path, metavar="OUT.json", help="write the tables")
    parser.set_defaults(run=run)


def truth_on_grid(sung: Sung) -> Floats:
    """The true pitch at the analysis frames."""
    frames = int(len(sung.audio) / sung.sample_rate / HOP_S) + 1
    place = np.minimum(np.round(np.arange(frames) * HOP_S * sung.sample_rate).astype(np.int64), len(sung.midi) - 1)
    return sung.midi[place]


def trackers() -> dict[str, Callable[[Floats], Floats]]:
    """Ours, and the reference libraries that are installed: audio at `RATE` to MIDI on the 5 ms grid."""
    found: dict[str, Callable[[Floats], Floats]] = {"glass thread": lambda x: track_f0(x, RATE).midi}
    try:
        import pyworld

        def dio(x: Floats) -> Floats:
            f, t = pyworld.dio(x, RATE, f0_floor=50, f0_ceil=1200, frame_period=5.0)
            hz = pyworld.stonemask(x, f, t, RATE)
            return np.where(hz > 0, hz_to_midi(np.maximum(hz, 1.0)), np.nan)

        found["pyworld dio+stonemask"] = dio
    except ImportError:
        pass
    try:
        import parselmouth

        def autocorrelation(x: Floats) -> Floats:
            pitch = parselmouth.Sound(x, RATE).to_pitch_ac(time_step=HOP_S, pitch_floor=50, pitch_ceiling=1200)
            hz = pitch.selected_array["frequency"]
            grid = np.arange(int(len(x) / RATE / HOP_S) + 1) * HOP_S
            near = np.clip(np.round((grid - pitch.xs()[0]) / HOP_S).astype(int), 0, len(hz) - 1)
            return np.where(hz[near] > 0, hz_to_midi(np.maximum(hz[near], 1.0)), np.nan)

        found["parselmouth autocorrelation"] = autocorrelation
    except ImportError:
        pass
    return found


def _timed(work: Callable[[], Any]) -> tuple[Any, float]:
    begun = time.process_time()
    result = work()
    return result, time.process_time() - begun


def bench_pitch(takes: dict[str, Sung]) -> list[dict[str, Any]]:
    """One row a tracker: medians over the voices, and times real time on one core."""
    rows = []
    for name, track in trackers().items():
        scores, seconds = [], 0.0
        for sung in takes.values():
            midi, spent = _timed(partial(track, sung.audio))
            scores.append(ev.pitch_scores(midi, truth_on_grid(sung)))
            seconds += spent
        mean = {k: float(np.mean([getattr(s, k) for s in scores])) for k in vars(scores[0])}
        length = sum(len(s.audio) for s in takes.values()) / RATE
        rows.append({"tracker": name, **mean, "x_real_time": length / max(seconds, 1e-9)})
    return rows


def bench_notes(takes: dict[str, tuple[Any, Sung]]) -> list[dict[str, Any]]:
    """One row a voice: note F with and without offsets, centre error, air F, speed."""
    rows = []
    for name, (performance, sung) in takes.items():
        found, spent = _timed(lambda s=sung: analyse(s.audio, RATE))
        truth = [(n.start_s, n.end_s, n.midi + n.off / 100) for n in performance.notes]
        notes = [(n.start_s, n.end_s, n.centre_midi) for n in found.notes]
        matched = ev.match_notes(notes, truth, offsets=False)
        error = [100 * abs(notes[i][2] - truth[j][2]) for i, j in matched]
        rows.append(
            {
                "voice": name,
                "note_f1": ev.note_f1(notes, truth),
                "note_f1_offsets": ev.note_f1(notes, truth, offsets=True),
                "centres_within_5": float(np.mean(np.array(error) < 5)) if error else 0.0,
                "sibilant_f1": _air_f1(found, performance, "sibilant"),
                "breath_f1": _air_f1(found, performance, "breath"),
                "x_real_time": len(sung.audio) / RATE / spent,
            }
        )
    return rows


def _air_f1(found: Analysis, performance: Any, kind: str) -> float:
    times = found.contour.times
    masks = []
    for events in (found.air, performance.air):
        mask = np.zeros(len(times), dtype=bool)
        for event in events:
            if event.kind == kind:
                mask |= (times >= event.start_s) & (times < event.end_s)
        masks.append(mask)
    return ev.mask_f1(*masks)


def bench_rendering(voices: list[str], seed: int) -> list[dict[str, Any]]:
    """One row a size of correction: medians over voices of the distance to the singer's own render at that pitch."""
    rows = []
    for label, off in {**CLASSES, "vibrato 30 %": (0.0, 0.0)}.items():
        found: list[list[float]] = []
        seconds = length = 0.0
        for name in voices:
            vibrato = label.startswith("vib")
            if (vibrato and VOICES[name][3] == 0) or (label == "1200" and VOICES[name][0] > 60):
                continue
            wrong = random_performance(name, seed, off=off)
            right = with_vibrato(wrong, 0.3) if vibrato else wrong.in_tune()
            source, ideal = sing(wrong, RATE), sing(right, RATE)
            tuned, spent = _timed(lambda s=source, i=ideal: _corrected(s, i))
            seconds += spent
            length += len(source.audio) / RATE
            found.append(_rendering_scores(wrong, source, ideal, tuned, all_notes=vibrato))
        names = ("cepstral_db", "spectral_db", "f0_cents", "f0_cents_ideal", "untouched_share_of_clean")
        middle = np.median(np.array(found), axis=0)
        speed = length / max(seconds, 1e-9)
        rows.append({"correction": label, **dict(zip(names, map(float, middle), strict=True)), "x_real_time": speed})
    return rows


def _corrected(source: Sung, ideal: Sung) -> Floats:
    analysis = analyse(source.audio, RATE)
    correction = curve_correction(analysis.contour, analysis.notes, truth_on_grid(ideal))
    return render_whole(source.audio[np.newaxis], RATE, analysis.contour, correction)[0]


def _rendering_scores(performance: Any, source: Sung, ideal: Sung, tuned: Floats, *, all_notes: bool) -> list[float]:
    cepstral, spectral = [], []
    clean_same, clean_total = 0, 0
    for note in performance.notes:
        part = slice(int((note.start_s + 0.02) * RATE), int((note.end_s - 0.02) * RATE))
        if note.off != 0 or all_notes:
            if part.stop - part.start < 2500:
                continue
            level = np.sqrt(np.mean(ideal.audio[part] ** 2) / np.mean(tuned[part] ** 2))  # the singer evens each take
            cepstral.append(ev.cepstral_distance(level * tuned[part], ideal.audio[part], RATE))
            spectral.append(ev.spectral_distance(level * tuned[part], ideal.audio[part], RATE))
        else:
            clean_same += int((tuned[part] == source.audio[part]).sum())
            clean_total += part.stop - part.start
    truth = truth_on_grid(ideal)
    out = ev.pitch_scores(track_f0(tuned, RATE).midi, truth, margin=6)
    best = ev.pitch_scores(track_f0(ideal.audio, RATE).midi, truth, margin=6)
    share = clean_same / clean_total if clean_total else 1.0
    return [float(np.mean(cepstral)), float(np.mean(spectral)), out.median_cents, best.median_cents, share]


def bench_edit() -> list[dict[str, Any]]:
    """Computation after a one-note edit: the run of the longest phrase of a take, marks known and not."""
    sung = sing(random_performance("tenor", 5), RATE)
    analysis = analyse(sung.audio, RATE)
    first, last = max(voiced_runs(analysis.contour), key=lambda r: r[1] - r[0])
    correction = np.zeros(len(analysis.contour.midi))
    note = next(n for n in analysis.notes if round(n.start_s / HOP_S) >= first)
    correction[round(note.start_s / HOP_S) : round(note.end_s / HOP_S)] = 0.3
    run, marks_s = _timed(lambda: prepare_run(sung.audio[np.newaxis], RATE, analysis.contour, first, last))
    times = [_timed(lambda: render_run(sung.audio[np.newaxis], RATE, run, correction))[1] for _ in range(5)]
    return [{"run_s": (last - first) * HOP_S, "marks_ms": 1000 * marks_s, "render_ms": 1000 * float(np.median(times))}]


def _print_table(title: str, rows: list[dict[str, Any]]) -> None:
    print(f"\n{title}\n")
    names = list(rows[0])
    print("| " + " | ".join(names) + " |\n|" + "---|" * len(names))
    for row in rows:
        cells = [f"{v:.3f}" if isinstance(v, float) else str(v) for v in row.values()]
        print("| " + " | ".join(cells) + " |")


def run(chosen: argparse.Namespace) -> int:
    """Measure and print all tables."""
    voices = [v for v in chosen.voices.split(",") if v in VOICES] or list(VOICES)
    warm_up()
    takes = {}
    for name in voices:
        performance = random_performance(name, chosen.seed)
        takes[name] = (performance, sing(performance, RATE))
    tables = {
        "pitch": bench_pitch({name: sung for name, (_, sung) in takes.items()}),
        "notes": bench_notes(takes),
        "rendering": bench_rendering(voices, chosen.seed),
        "edit": bench_edit(),
    }
    for title, rows in tables.items():
        _print_table(title, rows)
    if chosen.json:
        chosen.json.write_text(json.dumps(tables, indent=2))
    return 0
