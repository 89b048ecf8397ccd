"""The tuned sound of tracks: decoded sources and finished runs are remembered, so an edit renders what it touched."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from dataclasses import dataclass, field

import numpy as np

from ..core.analysis.contour import ContourParts
from ..core.document.content import Content, heard_contour
from ..core.document.gestures import as_read, pitch_correction, split_note
from ..core.plan.level_plan import air_share, level_gain, level_plan
from ..core.plan.note_changes import formant_change
from ..core.signal.errors import NotFoundError
from ..core.signal.signal_tools import runs
from ..core.signal.types import HOP_S, Contour, Floats, Note
from ..core.synthesis.render import Patch, Run, apply_patches, prepare_run, render_run, voiced_runs
from ..formats.audio import AudioInfo, read_audio
from ..store.audio_files import AudioFiles
from .documents import TrackDocument

SOURCES_KEPT = 6
PATCHES_KEPT = 600
RUNS_KEPT = 4000
PREVIEWS_KEPT = 8


@dataclass
class Source:
    """Decoded audio, shape (channels, n), with what was worked out about it so far."""

    audio: np.ndarray
    info: AudioInfo
    runs: OrderedDict[tuple[int, int, bytes], Run] = field(default_factory=OrderedDict)
    parts: dict[Note, ContourParts] = field(default_factory=dict)
    patches: OrderedDict[tuple[int, int, bytes], list[Patch]] = field(default_factory=OrderedDict)


@dataclass(frozen=True)
class Plan:
    """What is asked of a whole track on the analysis grid.

    The sung pitch as it is read, its correction and the shift of the formants in semitones, and the level in dB.
    """

    contour: Contour
    correction: Floats
    formant: Floats
    level_db: Floats

    def asked(self, first: int, last: int) -> bool:
        """True when pitch or formants change in frames [first, last)."""
        return bool(self.correction[first:last].any() or self.formant[first:last].any())


class TunedSound:
    """Renders spans of documents; safe to call from several threads."""

    def __init__(self, audio: AudioFiles) -> None:
        self._audio = audio
        self._sources: OrderedDict[str, Source] = OrderedDict()
        self._previews: OrderedDict[str, Content] = OrderedDict()
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

    def plan(self, document: TrackDocument, content: Content | None = None) -> Plan:
        """Correction and level of a document (or of other `content` over the same analysis)."""
        content = document.content if content is None else content
        source = self.source(document.track.audio_hash)
        analysis = document.analysis
        listed = [e.note for e in content.notes.values()]
        gestures = {note_id: e.gesture for note_id, e in content.notes.items()}
        contour = heard_contour(analysis.contour, content)
        read = as_read(analysis.contour, listed)

        def split(note: Note) -> ContourParts:
            with self._lock:
                if note not in source.parts:
                    source.parts[note] = split_note(read, analysis.level_db, note)
                return source.parts[note]

        frames = len(contour.midi)
        return Plan(
            contour,
            pitch_correction(contour, listed, gestures, document.key, split),
            formant_change(listed, gestures, frames),
            level_plan(content, frames),
        )

    def keep_preview(self, track_id: str, content: Content) -> None:
        """Remember what is tried out, to be seen and heard before they are taken; one set a track."""
        with self._lock:
            self._previews[track_id] = content
            self._previews.move_to_end(track_id)
            while len(self._previews) > PREVIEWS_KEPT:
                self._previews.popitem(last=False)

    def preview(self, track_id: str) -> Content:
        """The content tried out last."""
        with self._lock:
            if track_id not in self._previews:
                raise NotFoundError("There is no preview any more; open it again.")
            return self._previews[track_id]

    def span(self, document: TrackDocument, plan: Plan, begin: int, end: int) -> Floats:
        """Tuned samples [begin, end), shape (channels, end - begin); the same as that slice of the whole."""
        source = self.source(document.track.audio_hash)
        begin, end = max(0, begin), min(end, source.audio.shape[1])
        patches = self._patches(source, plan, begin, end)
        return with_level(apply_patches(source.audio, patches, begin, end), plan, source.info.sample_rate, begin)

    def _patches(self, source: Source, plan: Plan, begin: int, end: int) -> list[Patch]:
        rate = source.info.sample_rate
        found: list[Patch] = []
        for first, last in voiced_runs(plan.contour):
            if last * HOP_S * rate < begin - rate * HOP_S or (first - 1) * HOP_S * rate > end:
                continue
            if plan.asked(first, last):
                found += self._run_patches(source, plan, first, last)
        return found

    def _run_patches(self, source: Source, plan: Plan, first: int, last: int) -> list[Patch]:
        rate = source.info.sample_rate
        pitch = _digest(plan.contour.midi[first:last])
        key = (first, last, pitch + _digest(plan.correction[first:last]) + _digest(plan.formant[first:last]))
        with self._lock:
            if key in source.patches:
                source.patches.move_to_end(key)
                return source.patches[key]
            if (first, last, pitch) not in source.runs:
                source.runs[(first, last, pitch)] = prepare_run(source.audio, rate, plan.contour, first, last)
                while len(source.runs) > RUNS_KEPT:
                    source.runs.popitem(last=False)
            run = source.runs[(first, last, pitch)]
        made = render_run(source.audio, rate, run, plan.correction, formant=plan.formant)
        with self._lock:
            source.patches[key] = made
            while len(source.patches) > PATCHES_KEPT:
                source.patches.popitem(last=False)
        return made


def _digest(values: Floats) -> bytes:
    return hashlib.blake2b(values.tobytes(), digest_size=16).digest()


def with_level(samples: Floats, plan: Plan, sample_rate: int, begin: int) -> Floats:
    """Apply the level changes to samples that start at `begin`; samples outside them are not touched."""
    if not plan.level_db.any():
        return samples
    frame = np.arange(begin, begin + samples.shape[1]) / (sample_rate * HOP_S)
    db = np.interp(frame, np.arange(len(plan.level_db)), plan.level_db)
    touched = db != 0.0
    samples[:, touched] *= level_gain(db[touched])
    return samples


def of_air(samples: Floats, content: Content, plan: Plan, sample_rate: int, begin: int, *, keep: bool) -> Floats:
    """Only the voiceless air of samples that start at `begin`, or (`keep` False) everything but it."""
    frame = np.arange(begin, begin + samples.shape[1]) / (sample_rate * HOP_S)
    share = np.interp(frame, np.arange(len(plan.level_db)), air_share(content, len(plan.level_db)))
    return samples * (share if keep else 1.0 - share)


def changed_spans(before: Plan, after: Plan) -> list[tuple[float, float]]:
    """Time ranges in seconds whose sound differs between two plans of one document."""
    pitch = (before.correction != after.correction) | (before.formant != after.formant)
    pitch |= np.nan_to_num(before.contour.midi) != np.nan_to_num(after.contour.midi)
    voiced = dict.fromkeys(voiced_runs(before.contour) + voiced_runs(after.contour))
    spans = [(max(0.0, (a - 1) * HOP_S), (b + 1) * HOP_S) for a, b in voiced if pitch[a:b].any()]
    level = runs(before.level_db != after.level_db)
    return spans + [(max(0.0, (a - 1) * HOP_S), (b + 1) * HOP_S) for a, b in level]
