"""What the benchmark measures of rendering: distance to the singer's own render at the right pitch, and speed."""

from __future__ import annotations

import resource
import tempfile
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import soundfile as sf

from ...core.analysis.analysis import analyse, analyse_recording
from ...core.analysis.pitch.f0 import track_f0
from ...core.document.content import apply_to_content, as_found
from ...core.document.operations.registry import Scene, parse_operation
from ...core.measure import evaluation as ev
from ...core.plan.pitch.curve import curve_correction
from ...core.plan.plan import build_plan
from ...core.signal.types import HOP_S, Floats
from ...core.song.keys import make_tuning, one_key
from ...core.synthesis.render import render_run, render_whole, voiced_runs
from ...core.synthesis.voice.layout import Run, lay_out, prepare_run
from ...demo.build import FOLDER
from ...demo.score import Performance
from ...demo.singer import Sung, sing
from ...demo.song import SCALE, TONIC
from ...demo.voices import VOICES, random_performance, with_vibrato
from ...formats.audio import AudioReader
from ...services.sound.recordings import CachedRecording
from ...services.sound.sound import SOURCE_BYTES, Renderer
from ...store.byte_cache import ByteCache
from ..finding.analysis import Row, timed, truth_on_grid
from .references import reference_renderers

RATE = 48_000
CLASSES: dict[str, tuple[float, float]] = {
    "20-50": (20, 50),
    "100-200": (100, 200),
    "400": (400, 400),
    "1200": (1200, 1200),
    "vibrato 30 %": (0, 0),
}
EDITED_TRACK_S = 300


def bench_rendering(voices: list[str], seed: int) -> list[Row]:
    """One row a size of correction and method: medians over the voices."""
    methods: dict[str, Any] = {"glass thread, own tracking": None, **reference_renderers()}
    rows = []
    for label in CLASSES:
        found: dict[str, list[Row]] = {method: [] for method in methods}
        for name in voices:
            pair = _pair(label, name, seed)
            if pair is None:
                continue
            for method, correct in methods.items():
                work = partial(_corrected if correct is None else partial(_by_reference, correct), *pair[1:])
                tuned, spent = timed(work)
                scores = take_scores(*pair, tuned, all_notes=label.startswith("vib"))
                found[method].append({**scores, "x_real_time": len(tuned) / RATE / max(spent, 1e-9)})
        for method, scored in found.items():
            middle = {key: float(np.nanmedian([row[key] for row in scored])) for key in scored[0]}
            middle["border_jump"] = max(row["border_jump"] for row in scored)
            rows.append({"correction": label, "method": method, **middle})
    return rows


def _pair(label: str, name: str, seed: int) -> tuple[Performance, Sung, Sung] | None:
    vibrato = label.startswith("vib")
    if (vibrato and VOICES[name][3] == 0) or (label == "1200" and VOICES[name][0] > 60):
        return None
    wrong = random_performance(name, seed, off=CLASSES[label])
    right = with_vibrato(wrong, 0.3) if vibrato else wrong.in_tune()
    return wrong, sing(wrong, RATE), sing(right, RATE)


def _corrected(source: Sung, ideal: Sung) -> Floats:
    analysis = analyse(source.audio, RATE)
    correction = curve_correction(analysis.contour, analysis.notes, truth_on_grid(ideal))
    return render_whole(source.audio[np.newaxis], RATE, analysis.contour, correction)[0]


def _by_reference(correct: Any, source: Sung, ideal: Sung) -> Floats:
    return correct(source.audio, RATE, truth_on_grid(source), truth_on_grid(ideal))


def take_scores(
    performance: Performance, source: Sung, ideal: Sung, tuned: Floats, *, all_notes: bool
) -> Row:  # fmt: skip
    """How far a render is from the singer's own take of a performance, and what it left alone."""
    cepstral, spectral = [], []
    clean_same, clean_total = 0, 0
    truth = truth_on_grid(ideal)
    changed = np.full(len(truth), np.nan)
    for note in performance.notes:
        part = slice(int((note.start_s + 0.02) * RATE), int((note.end_s - 0.02) * RATE))
        if part.stop - part.start < 2500:
            continue
        if note.off != 0 or all_notes:
            level = np.sqrt(np.mean(ideal.audio[part] ** 2) / np.mean(tuned[part] ** 2))  # the singer evens each take
            cepstral.append(ev.cepstral_distance(level * tuned[part], ideal.audio[part], RATE))
            spectral.append(ev.spectral_distance(level * tuned[part], ideal.audio[part], RATE))
            inner = slice(round((note.start_s + 0.04) / HOP_S), round((note.end_s - 0.04) / HOP_S))
            changed[inner] = truth[inner]
        else:
            clean_same += int((tuned[part] == source.audio[part]).sum())
            clean_total += part.stop - part.start
    out = ev.pitch_scores(track_f0(tuned, RATE).midi, changed, margin=0)
    best = ev.pitch_scores(track_f0(ideal.audio, RATE).midi, changed, margin=0)
    noise = [ev.harmonics_to_noise(x, RATE, changed) for x in (tuned, ideal.audio)]
    borders = [edge for note in performance.notes for edge in (note.start_s, note.end_s)]
    return {
        "cepstral_db": float(np.mean(cepstral)),
        "spectral_db": float(np.mean(spectral)),
        "f0_median_from_ideal": out.median_cents - best.median_cents,
        "f0_p95_from_ideal": out.p95_cents - best.p95_cents,
        "noise_ratio_from_ideal_db": noise[0] - noise[1],
        "border_jump": ev.border_jump(source.audio, tuned, RATE, borders),
        "clean_untouched": clean_same / clean_total if clean_total else 1.0,
        "air_untouched": _air_untouched(performance, source, tuned),
    }


def _air_untouched(performance: Performance, source: Sung, tuned: Floats) -> float:
    """Share of voiceless samples, 15 ms off the edges, that are bit-identical."""
    same = total = 0
    for event in performance.air:
        part = slice(int((event.start_s + 0.015) * RATE), int((event.end_s - 0.015) * RATE))
        same += int((tuned[part] == source.audio[part]).sum())
        total += max(0, part.stop - part.start)
    return same / total if total else 1.0


def bench_edit() -> list[Row]:
    """Computation after a one-note edit on a long track, as the app does it: the run's marks and its patch."""
    sung = sing(random_performance("tenor", 5, duration_s=12.0), RATE)
    audio = np.tile(sung.audio.astype(np.float32), EDITED_TRACK_S // 12)[np.newaxis]
    analysis = analyse(audio, RATE)
    runs = {first: (first, last) for first, last in voiced_runs(analysis.contour)}
    longest = sorted(runs.values(), key=lambda run: run[0] - run[1])[:5]
    marks_ms, render_ms = [], []
    for first, last in longest:
        correction = np.zeros(len(analysis.contour.midi))
        note = next(n for n in analysis.notes if round(n.start_s / HOP_S) >= first)
        correction[round(note.start_s / HOP_S) : round(note.end_s / HOP_S)] = 0.3
        run, seconds = timed(partial(prepare_run, audio, RATE, analysis.contour, first, last))
        marks_ms.append(1000 * seconds)
        render_ms.append(1000 * timed(partial(_rendered, audio, run, correction))[1])
    return [{"track_s": audio.shape[1] / RATE, "run_s": (longest[0][1] - longest[0][0]) * HOP_S,
             "marks_ms": float(np.median(marks_ms)), "render_ms": float(np.median(render_ms)),
             "worst_ms": max(a + b for a, b in zip(marks_ms, render_ms, strict=True))}]  # fmt: skip


def _rendered(audio: Floats, run: Run, correction: Floats) -> None:
    render_run(audio, lay_out(run, RATE, correction))


def bench_stereo(minutes: int = 4) -> list[Row]:
    """A stereo file with every note tuned, read and rendered block by block: how many times faster than it sounds, on
    as many cores as the process may use, and the most memory the process has held."""
    samples, rate = sf.read(str(FOLDER / "lead.flac"))
    whole = np.concatenate([samples * (1.0 - 0.02 * i) for i in range(minutes)])
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "stereo.wav"
        sf.write(path, np.stack((whole, 0.8 * whole), axis=1), rate, subtype="PCM_24")
        reader = AudioReader(path, Path(folder) / "unpacked")
        found, keys = analyse_recording(reader), one_key(make_tuning(TONIC, SCALE))
        every = {"type": "tune", "note_ids": [note.id for note in found.notes]}
        content = as_found(found)
        change = parse_operation(every).change(Scene(content, keys, found))
        plan = build_plan(found, apply_to_content(content, change), keys)
        stereo = CachedRecording("bench", reader, ByteCache(SOURCE_BYTES, lambda block: block.nbytes))
        _, spent = timed(lambda: [block.begin for block in Renderer().blocks(stereo, plan)])
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return [{"minutes": minutes, "notes": len(found.notes), "x_real_time": 60.0 * minutes / spent, "peak_mb": most}]
