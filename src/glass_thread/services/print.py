"""Print a track: a fixed file at unity, untouched samples as they were."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ..core.document.content import Content
from ..core.signal.errors import ParameterError
from ..core.signal.types import Floats
from ..core.signal.units import gain_to_db
from ..core.signal.validation import in_range
from ..core.synthesis.dither import quantise
from ..formats.audio import AudioInfo, write_flac
from ..formats.wav import write_wav
from ..store.records import Task
from .documents import TrackDocument, load_document
from .tasks import Reporter
from .tuned_sound import TunedSound
from .workspace import Workspace

CONTAINERS = ("wav", "flac")
DEPTHS = (16, 24, 32)
_BLOCK_S = 10


@dataclass(frozen=True)
class PrintSummary:
    """What a print will hold: share of samples left as they are (0 to 1), peak in dBFS, what sounds different."""

    untouched_share: float
    peak_dbfs: float
    notes_changed: int
    air_changed: int = 0


def usual_depth(info: AudioInfo) -> int:
    """The source's own depth, as far as prints have it."""
    return 32 if info.is_float or info.bits > 24 or info.bits == 0 else max(16, info.bits)


def blocks(
    sound: TunedSound, document: TrackDocument, first: int = 0, last: int | None = None
) -> Iterator[tuple[int, Floats, Floats]]:
    """Begin in samples, source and tuned sound of samples [first, last), ten seconds after ten seconds."""
    source = sound.source(document.track.audio_hash)
    plan = sound.plan(document)
    step = _BLOCK_S * source.info.sample_rate
    last = source.audio.shape[1] if last is None else last
    for begin in range(first, last, step):
        end = min(begin + step, last)
        yield begin, source.audio[:, begin:end], sound.span(document, plan, begin, end)


def summarise(sound: TunedSound, document: TrackDocument) -> PrintSummary:
    """Untouched share and peak of what a print at the source's depth would hold."""
    same = total = 0
    peak = 0.0
    for _begin, source, tuned in blocks(sound, document):
        same += int((source == tuned).all(axis=0).sum())
        total += source.shape[1]
        peak = max(peak, float(np.abs(tuned).max(initial=0.0)))
    return PrintSummary(same / max(total, 1), float(gain_to_db(peak)), *changed_counts(document.content))


def write_print(
    path: Path, sound: TunedSound, document: TrackDocument, *, container: str = "wav", bits: int | None = None,
    lower_db: float = 0.0, report: Reporter = lambda _stage, _share: None,
) -> PrintSummary:  # fmt: skip
    """Write a document's sound to `path`.

    Samples that no edit touched are written without dither and, at the
    source's depth, bit-identical; edited ones get triangular dither at 16 and 24 bits.

    Raises
    ------
    ParameterError
        If the peak lies over full scale and neither `lower_db` nor 32-bit float takes care of it.
    """
    source = sound.source(document.track.audio_hash)
    depth = usual_depth(source.info) if bits is None else bits
    if container not in CONTAINERS or depth not in DEPTHS:
        raise ParameterError("A print is wav or flac, at 16, 24 or 32 (float) bits.")
    if container == "flac" and depth == 32:
        if bits is not None:
            raise ParameterError("FLAC holds 16 or 24 bits; choose one of them or WAV.")
        depth = 24
    in_range(lower_db, 0, 60, "Lower by (dB)")
    gain = 10.0 ** (-lower_db / 20.0)
    rng = np.random.default_rng(0)
    written = np.empty(source.audio.shape, dtype=np.float32 if depth == 32 else np.int32)
    same, peak = 0, 0.0
    scale = 1.0 if depth == 32 else 2.0 ** (depth - 1)
    for begin, untouched, tuned in blocks(sound, document):
        report("Printing", 0.05 + 0.85 * begin / source.audio.shape[1])
        edited = (untouched != tuned).any(axis=0)
        tuned = tuned * gain if lower_db else tuned
        peak = max(peak, float(np.abs(tuned).max(initial=0.0)))
        if peak > 1.0 and depth != 32:
            over = float(gain_to_db(peak))
            raise ParameterError(f"The peak is {over:.1f} dB over full scale: lower the print, or keep 32-bit float.")
        dithered = edited | bool(lower_db)
        part = tuned if depth == 32 else quantise(tuned, depth, dithered=dithered, rng=rng)
        written[:, begin : begin + part.shape[1]] = part
        same += int((written[:, begin : begin + part.shape[1]] / scale == untouched).all(axis=0).sum())
    rate = source.info.sample_rate
    if container == "flac":
        write_flac(path, written, rate, bits=depth)
    else:
        stamp = _stamp(document, source.info)
        write_wav(path, written, rate, bits=depth, time_reference=stamp)
    return PrintSummary(
        same / max(source.audio.shape[1], 1), float(gain_to_db(peak)), *changed_counts(document.content)
    )


def changed_counts(content: Content) -> tuple[int, int]:
    """How many notes, and how many air events and gaps, sound different."""
    air = sum(not edited.is_as_sung for edited in content.air.values())
    notes = sum(not edited.gesture.is_as_sung for edited in content.notes.values())
    return notes, air + len(content.gaps)


def _stamp(document: TrackDocument, info: AudioInfo) -> int:
    """The source's own time stamp, else the track's place on the timeline."""
    if info.time_reference is not None:
        return info.time_reference
    return max(0, round(document.track.offset_s * info.sample_rate))


def request_print(workspace: Workspace, track_id: str, wanted: dict[str, Any]) -> Task:
    """Queue a print of the track as it stands."""
    document = load_document(workspace, track_id)
    task = workspace.tasks.add(
        kind="print", song_id=document.track.song_id, track_id=track_id,
        wanted={**wanted, "step": document.track.cursor, "step_made": _made(document, document.track.cursor)},
    )  # fmt: skip
    workspace.enqueue(task.id)
    return task


def _made(document: TrackDocument, number: int) -> float:
    """When a step was made; 0 for the state before the first."""
    return document.steps[number - 1].created_at if 0 < number <= len(document.steps) else 0.0


def run_print(workspace: Workspace, task: Task, report: Reporter) -> dict[str, Any]:
    """Write the print of a task; the file appears whole or not at all."""
    assert task.track_id is not None
    step = task.wanted.get("step")
    document = load_document(workspace, task.track_id, after_step=step)
    if step is not None and _made(document, step) != task.wanted.get("step_made"):
        raise ParameterError("What was to be printed is gone: it was undone and edited over. Print again.")
    container = task.wanted.get("container", "wav")
    name = f"{uuid.uuid4().hex}.{container}"
    path = workspace.audio.print_path(name)
    temporary = path.with_suffix(".part")
    try:
        summary = write_print(
            temporary, TunedSound(workspace.audio), document, container=container, bits=task.wanted.get("bits"),
            lower_db=task.wanted.get("lower_db", 0.0), report=report,
        )  # fmt: skip
        temporary.rename(path)
    finally:
        temporary.unlink(missing_ok=True)
    return {
        "file": name, "shown_name": f"{document.track.name} tuned.{container}",
        "untouched_share": summary.untouched_share, "peak_dbfs": summary.peak_dbfs,
        "notes_changed": summary.notes_changed, "air_changed": summary.air_changed,
    }  # fmt: skip
