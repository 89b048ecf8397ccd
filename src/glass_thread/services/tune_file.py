"""Tune a file outside the data folder, for the command line."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from ..core.analysis.analysis import analyse
from ..core.document.content import Content, apply_to_content, as_found, heard_contour
from ..core.document.edits import tune_pass
from ..core.document.gestures import as_read, pitch_correction, split_note
from ..core.document.operations.operations import apply_operation
from ..core.document.scales import Key, make_key
from ..core.plan.curve import curve_correction
from ..core.plan.level_plan import level_plan
from ..core.plan.note_changes import formant_change
from ..core.signal.errors import ParameterError
from ..core.signal.types import HOP_S, Analysis, Floats
from ..core.signal.units import gain_to_db
from ..core.synthesis.dither import quantise
from ..core.synthesis.render import render_whole
from ..formats.audio import AudioInfo, read_audio, write_flac
from ..formats.documents import read_curve, read_edits
from ..formats.wav import write_wav
from .print import PrintSummary, changed_counts, usual_depth
from .tuned_sound import Plan, with_level


def likely_key(analysis: Analysis) -> Key:
    """The best key estimate at A4 = 440 Hz; chromatic when there is none."""
    if not analysis.keys:
        return make_key(0, "chromatic")
    return make_key(analysis.keys[0].tonic, analysis.keys[0].scale)


def edited_content(analysis: Analysis, key: Key, operations: list[dict[str, Any]]) -> Content:
    """The content after all operations; ``"note_ids": "all"`` and ``"air_ids": "all"`` name every note and event."""
    content = as_found(analysis)
    for operation in operations:
        everything = {"note_ids": list(content.notes), "air_ids": list(content.air)}
        named = {name: ids for name, ids in everything.items() if operation.get(name) == "all"}
        content = apply_to_content(content, apply_operation(content, key, {**operation, **named}, analysis))
    return content


def tune_file(
    source: Path, target: Path, *, key: Key | None = None, pull: float = 1.0, drift: float = 1.0,
    vibrato: float = 1.0, rounding: str = "scale", curve: Path | None = None, edits: Path | None = None,
) -> PrintSummary:  # fmt: skip
    """Analyse `source`, apply a tune pass, a curve or an edit document, and write `target` (.wav or .flac).

    The target appears whole or not at all.
    """
    if target.suffix.lower() not in (".wav", ".flac"):
        raise ParameterError("The output is written as .wav or .flac; name it so.")
    if target.exists() and source.exists() and target.samefile(source):
        raise ParameterError("The output would replace the source; give it another name.")
    operations = read_edits(edits) if edits is not None else None
    audio, info = read_audio(source)
    analysis = analyse(audio, info.sample_rate)
    chosen = key or likely_key(analysis)
    contour = analysis.contour
    level = formant = np.zeros(len(contour.midi))
    if curve is not None:
        correction = curve_correction(analysis.contour, analysis.notes, read_curve(curve, analysis.contour))
        changed = (_notes_under(analysis, correction), 0)
    else:
        if operations is not None:
            content = edited_content(analysis, chosen, operations)
        else:
            content = as_found(analysis)
            settings = {"pull": pull, "drift": drift, "vibrato": vibrato, "rounding": rounding}
            if content.notes:
                passed = tune_pass(content.notes, chosen, note_ids=list(content.notes), **settings)
                content = apply_to_content(content, passed)
        gestures = {note_id: e.gesture for note_id, e in content.notes.items()}
        listed = [e.note for e in content.notes.values()]
        read, contour = as_read(contour, listed), heard_contour(contour, content)
        correction = pitch_correction(
            contour, listed, gestures, chosen, lambda note: split_note(read, analysis.level_db, note)
        )
        level = level_plan(content, len(level))
        formant = formant_change(listed, gestures, len(level))
        changed = changed_counts(content)
    tuned = render_whole(audio, info.sample_rate, contour, correction, formant=formant)
    tuned = with_level(tuned, Plan(contour, correction, formant, level), info.sample_rate, 0)
    return _write(target, audio, tuned, info, changed)


def _notes_under(analysis: Analysis, correction: Floats) -> int:
    spans = [(int(n.start_s / HOP_S), int(n.end_s / HOP_S)) for n in analysis.notes]
    return sum(bool(correction[a:b].any()) for a, b in spans)


def _write(target: Path, audio: Floats, tuned: Floats, info: AudioInfo, changed: tuple[int, int]) -> PrintSummary:
    bits = usual_depth(info)
    flac = target.suffix.lower() == ".flac"
    if flac and bits == 32:
        bits = 24
    peak = float(np.abs(tuned).max(initial=0.0))
    if peak > 1.0 and bits != 32:
        raise ParameterError(f"The peak is {gain_to_db(peak):.1f} dB over full scale; lower the source first.")
    edited = (audio != tuned).any(axis=0)
    values = tuned if bits == 32 else quantise(tuned, bits, dithered=edited, rng=np.random.default_rng(0))
    scale = 1.0 if bits == 32 else 2.0 ** (bits - 1)
    temporary = target.with_name(target.name + ".part")
    try:
        if flac:
            write_flac(temporary, values, info.sample_rate, bits=bits)
        else:
            write_wav(temporary, values, info.sample_rate, bits=bits, time_reference=info.time_reference)
        temporary.replace(target)
    except OSError as error:
        raise ParameterError(f"{target.name} cannot be written: {error.strerror or error}.") from error
    finally:
        temporary.unlink(missing_ok=True)
    same = (values.astype(np.float32 if bits == 32 else np.float64) / scale == audio).all(axis=0)
    return PrintSummary(float(same.mean()), float(gain_to_db(peak)), *changed)
