"""The tuned sound of tracks: decoded sources and finished runs are remembered, so an edit renders what it touched."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from dataclasses import dataclass, field

import numpy as np

from ..core.contour import ContourParts
from ..core.edits import EditedNote
from ..core.gestures import level_change, pitch_correction, split_note
from ..core.render import Patch, Run, apply_patches, prepare_run, render_run, voiced_runs
from ..core.types import HOP_S, Analysis, Floats, Note
from ..core.units import db_to_gain
from ..formats.audio import AudioInfo, read_audio
from ..store.audio_files import AudioFiles
from .documents import TrackDocument

SOURCES_KEPT = 6
PATCHES_KEPT = 600


@dataclass
class Source:
    """Decoded audio, shape (channels, n), with what was worked out about it so far."""

    audio: np.ndarray
    info: AudioInfo
    runs: dict[tuple[int, int], Run] = field(default_factory=dict)
    parts: dict[Note, ContourParts] = field(default_factory=dict)
    patches: OrderedDict[tuple[int, int, bytes], list[Patch]] = field(default_factory=OrderedDict)


@dataclass(frozen=True)
class Plan:
    """What is asked of a whole track on the analysis grid: pitch in semitones and level in dB."""

    correction: Floats
    level_db: Floats


class TunedSound:
    """Renders spans of documents; safe to call from several threads."""

    def __init__(self, audio: AudioFiles) -> None:
        self._audio = audio
        self._sources: OrderedDict[str, Source] = OrderedDict()
        self._lock = threading.RLock()

    def source(self, audio_hash: str) -> Source:
        """The decoded file."""
        with self._lock:
            known = self._sources.get(audio_hash)
            if known is None:
                samples, info = read_audio(self._audio.source(audio_hash))
                known = Source(samples, info)
                self._sources[audio_hash] = known
                while len(self._sources) > SOURCES_KEPT:
                    self._sources.popitem(last=False)
            self._sources.move_to_end(audio_hash)
            return known

    def plan(self, document: TrackDocument, notes: dict[str, EditedNote] | None = None) -> Plan:
        """Correction and level of a document (or of other `notes` over the same analysis)."""
        edited = document.notes if notes is None else notes
        source = self.source(document.track.audio_hash)
        analysis = document.analysis
        listed = [e.note for e in edited.values()]
        gestures = {note_id: e.gesture for note_id, e in edited.items()}

        def split(note: Note) -> ContourParts:
            with self._lock:
                if note not in source.parts:
                    source.parts[note] = split_note(analysis.contour, analysis.level_db, note)
                return source.parts[note]

        return Plan(
            pitch_correction(analysis.contour, listed, gestures, document.key, split),
            level_change(listed, gestures, len(analysis.contour.midi)),
        )

    def span(self, document: TrackDocument, plan: Plan, begin: int, end: int) -> Floats:
        """Tuned samples [begin, end), shape (channels, end - begin); the same as that slice of the whole."""
        source = self.source(document.track.audio_hash)
        begin, end = max(0, begin), min(end, source.audio.shape[1])
        patches = self._patches(source, document.analysis, plan, begin, end)
        return with_level(apply_patches(source.audio, patches, begin, end), plan, source.info.sample_rate, begin)

    def _patches(self, source: Source, analysis: Analysis, plan: Plan, begin: int, end: int) -> list[Patch]:
        rate = source.info.sample_rate
        found: list[Patch] = []
        for first, last in voiced_runs(analysis.contour):
            if last * HOP_S * rate < begin - rate * HOP_S or (first - 1) * HOP_S * rate > end:
                continue
            if plan.correction[first:last].any():
                found += self._run_patches(source, analysis, plan, first, last)
        return found

    def _run_patches(self, source: Source, analysis: Analysis, plan: Plan, first: int, last: int) -> list[Patch]:
        digest = hashlib.blake2b(plan.correction[first:last].tobytes(), digest_size=16).digest()
        key = (first, last, digest)
        with self._lock:
            if key in source.patches:
                source.patches.move_to_end(key)
                return source.patches[key]
            if (first, last) not in source.runs:
                source.runs[(first, last)] = prepare_run(
                    source.audio, source.info.sample_rate, analysis.contour, first, last
                )
            run = source.runs[(first, last)]
        made = render_run(source.audio, source.info.sample_rate, run, plan.correction)
        with self._lock:
            source.patches[key] = made
            while len(source.patches) > PATCHES_KEPT:
                source.patches.popitem(last=False)
        return made


def with_level(samples: Floats, plan: Plan, sample_rate: int, begin: int) -> Floats:
    """Apply the level changes to samples that start at `begin`; samples outside them are not touched."""
    if not plan.level_db.any():
        return samples
    frame = np.arange(begin, begin + samples.shape[1]) / (sample_rate * HOP_S)
    db = np.interp(frame, np.arange(len(plan.level_db)), plan.level_db)
    touched = db != 0.0
    samples[:, touched] *= db_to_gain(db[touched])
    return samples


def changed_spans(before: Plan, after: Plan, document: TrackDocument) -> list[tuple[float, float]]:
    """Time ranges in seconds whose sound differs between two plans of one document."""
    pitch = before.correction != after.correction
    spans = [
        (max(0.0, (a - 1) * HOP_S), (b + 1) * HOP_S)
        for a, b in voiced_runs(document.analysis.contour)
        if pitch[a:b].any()
    ]
    level = np.flatnonzero(before.level_db != after.level_db)
    if len(level):
        spans.append((max(0.0, (level[0] - 1) * HOP_S), float((level[-1] + 2) * HOP_S)))
    return spans
