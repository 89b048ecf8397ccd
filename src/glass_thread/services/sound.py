"""The sound of tracks by (track, plan, span), for playback, prints and the command line alike.

Sources are read piece by piece; runs that were rendered are remembered by what they were made from, so an edit renders
only what it touched.
"""

from __future__ import annotations

import hashlib
import threading
from collections.abc import Iterator
from typing import NamedTuple, Protocol

import numpy as np

from ..core.document.content import Content
from ..core.plan.level_plan import air_share, level_gain
from ..core.plan.plan import Plan
from ..core.plan.time_map import TimeMap
from ..core.signal.recording import Mono, Recording
from ..core.signal.signal_tools import run_around, runs
from ..core.signal.types import HOP_S, Floats
from ..core.synthesis.placing import placed
from ..core.synthesis.render import Patch, Run, apply_patches, prepare_run, render_run, run_map, run_samples
from ..formats.audio import AudioInfo, AudioReader
from ..store.byte_cache import ByteCache

SOURCE_BYTES, PATCH_BYTES, RUN_BYTES = 128 << 20, 96 << 20, 48 << 20
_BLOCK_FRAMES = 1 << 16
PRINT_BLOCK_S = 10


class CachedRecording:
    """A recording whose blocks are remembered in a shared cache."""

    def __init__(self, name: str, recording: Recording, blocks: ByteCache[Floats]) -> None:
        self.name = name
        self._recording, self._blocks = recording, blocks

    @property
    def sample_rate(self) -> int:
        """Hertz."""
        return self._recording.sample_rate

    @property
    def channels(self) -> int:
        """How many."""
        return self._recording.channels

    @property
    def frames(self) -> int:
        """Samples of each channel."""
        return self._recording.frames

    def read(self, begin: int, end: int) -> Floats:
        """Samples [begin, end), shape (channels, end - begin)."""
        if end <= begin:
            return self._block(0)[:, :0]
        first, last = begin // _BLOCK_FRAMES, (end - 1) // _BLOCK_FRAMES
        parts = [self._block(index) for index in range(first, last + 1)]
        joined = parts[0] if len(parts) == 1 else np.concatenate(parts, axis=1)
        return joined[:, begin - first * _BLOCK_FRAMES : end - first * _BLOCK_FRAMES]

    def _block(self, index: int) -> Floats:
        known = self._blocks.get((self.name, index))
        if known is None:
            begin = index * _BLOCK_FRAMES
            known = self._recording.read(begin, min(begin + _BLOCK_FRAMES, self.frames))
            self._blocks.keep((self.name, index), known)
        return known


class Block(NamedTuple):
    """Samples of a track from sample `begin` on: in the recording; as sung but moved in time, NaN where that is no
    sample of the recording; and tuned."""

    begin: int
    sung: Floats
    moved: Floats
    tuned: Floats


def track_length(source: CachedRecording, plan: Plan) -> int:
    """Samples of a track after all edits of time."""
    return round(plan.moves(source.sample_rate).to_target(source.frames))


class Shelf(Protocol):
    """Whatever has recordings by the hash of their bytes."""

    def reader(self, audio_hash: str) -> AudioReader:
        """A recording, to be read piece by piece."""


class Renderer:
    """Renders spans of plans over recordings; safe to call from several threads."""

    def __init__(self) -> None:
        self._runs: ByteCache[Run] = ByteCache(RUN_BYTES, lambda run: run.marks.nbytes + 200)
        self._patches: ByteCache[list[Patch]] = ByteCache(PATCH_BYTES, _patch_bytes)

    def span(self, source: CachedRecording, plan: Plan, begin: int, end: int) -> Floats:
        """Tuned track samples [begin, end), shape (channels, end - begin); the same as that slice of the whole."""
        begin, end = max(0, begin), max(0, min(end, track_length(source, plan)))
        if end <= begin:
            return source.read(0, 0)
        patches = self._patches_of(source, plan, begin, end)
        tuned = apply_patches(self.moved(source, plan, begin, end), patches, begin)
        return with_level(tuned, plan, source.sample_rate, begin)

    @staticmethod
    def moved(source: CachedRecording, plan: Plan, begin: int, end: int, *, blends: bool = True) -> Floats:
        """Track samples [begin, end) as sung, each where the edits of time put it; see `placed`."""
        if not plan.stretches:
            return source.read(begin, min(end, source.frames))
        moves = plan.moves(source.sample_rate)
        return placed(source.read, source.frames, moves, begin, end, source.sample_rate, blends=blends)

    def _patches_of(self, source: CachedRecording, plan: Plan, begin: int, end: int) -> list[Patch]:
        n = len(plan.correction)
        rate = source.sample_rate * HOP_S
        moves = plan.moves(source.sample_rate)
        sung = moves.to_source(np.array([begin, end], dtype=np.float64)) / rate
        low, high = max(0, int(sung[0]) - 1), min(n, int(sung[1]) + 2)
        if low >= high:
            return []
        first, last = _around(plan.contour.midi, low, high)
        found: list[Patch] = []
        for a, b in runs(np.isfinite(plan.contour.midi[first:last])):
            found += self._run_patches(source, plan, moves, first + a, first + b)
        return found

    def _run_patches(
        self, source: CachedRecording, plan: Plan, moves: TimeMap, first: int, last: int
    ) -> list[Patch]:  # fmt: skip
        inner, at = run_map(moves, first, last, source.sample_rate)
        if not plan.asked(first, last) and not inner.moves:
            return []
        pitch = _digest(plan.contour.midi[first:last])
        whole = (source.name, first, last, pitch)
        asked = (*whole, _digest(plan.correction[first:last]), _digest(plan.formant[first:last]), *inner.fingerprint)
        known = self._patches.get(asked)
        if known is None:
            begin, end = run_samples(first, last, source.sample_rate, source.frames)
            piece = source.read(begin, end)
            run = self._runs.get(whole)
            if run is None:
                run = self._runs.keep(whole, prepare_run(piece, source.sample_rate, plan.contour, first, last, begin))
            made = render_run(
                piece, source.sample_rate, run, plan.correction, formant=plan.formant, time_map=inner
            )  # fmt: skip
            known = self._patches.keep(asked, made)
        return [patch.moved_by(at) for patch in known]

    def blocks(self, source: CachedRecording, plan: Plan, first: int = 0, last: int | None = None) -> Iterator[Block]:
        """Samples [first, last) of the track, ten seconds after ten seconds."""
        whole = track_length(source, plan)
        last = whole if last is None else min(last, whole)
        step = PRINT_BLOCK_S * source.sample_rate
        for begin in range(first, last, step):
            end = min(begin + step, last)
            here = source.read(begin, min(end, source.frames))
            sung = here if here.shape[1] == end - begin else np.pad(here, ((0, 0), (0, end - begin - here.shape[1])))
            moved = self.moved(source, plan, begin, end, blends=False) if plan.stretches else sung
            yield Block(begin, sung, moved, self.span(source, plan, begin, end))


class Sound(Renderer):
    """The renderer over recordings by content."""

    def __init__(self, audio: Shelf) -> None:
        super().__init__()
        self._audio = audio
        self._blocks: ByteCache[Floats] = ByteCache(SOURCE_BYTES, lambda block: block.nbytes)
        self._open: dict[str, tuple[AudioReader, CachedRecording]] = {}
        self._lock = threading.Lock()

    def _opened(self, audio_hash: str) -> tuple[AudioReader, CachedRecording]:
        with self._lock:
            if audio_hash not in self._open:
                reader = self._audio.reader(audio_hash)
                self._open[audio_hash] = (reader, CachedRecording(audio_hash, reader, self._blocks))
            return self._open[audio_hash]

    def source(self, audio_hash: str) -> CachedRecording:
        """A kept recording."""
        return self._opened(audio_hash)[1]

    def info(self, audio_hash: str) -> AudioInfo:
        """What a kept recording says about itself."""
        return self._opened(audio_hash)[0].info

    def mono(self, audio_hash: str) -> Mono:
        """The mean of a kept recording's channels, to be read by slices."""
        return Mono(self.source(audio_hash))


def _patch_bytes(patches: list[Patch]) -> int:
    return sum(patch.samples.nbytes for patch in patches) + 200


def _digest(values: Floats) -> bytes:
    return hashlib.blake2b(values.tobytes(), digest_size=16).digest()


def _around(midi: Floats, low: int, high: int) -> tuple[int, int]:
    """Frames [low, high) grown over the voiced runs at their ends, looked for in ever wider surroundings."""
    reach = 2000
    while True:
        first, last = max(0, low - reach), min(len(midi), high + reach)
        a, b = run_around(np.isfinite(midi[first:last]), low - first, high - first)
        if (a > 0 or first == 0) and (b < last - first or last == len(midi)):
            return first + a, first + b
        reach *= 4


def _frames_of(begin: int, n: int, sample_rate: int, plan: Plan) -> tuple[Floats, int, int]:
    """Frames of `n` track samples from `begin` on, counted from frame `low`, and the frames [low, high) around."""
    at = np.arange(begin, begin + n, dtype=np.float64)
    frame = plan.moves(sample_rate).to_source(at) / (sample_rate * HOP_S)
    n_frames = len(plan.level_db)
    low = max(0, min(int(frame[0]), n_frames - 1)) if n else 0
    high = min(n_frames, int(frame[-1]) + 2) if n else 0
    return frame - low, low, max(high, low + 1)


def with_level(samples: Floats, plan: Plan, sample_rate: int, begin: int) -> Floats:
    """Apply the level changes to track samples that start at `begin`; samples outside them are not touched."""
    frame, low, high = _frames_of(begin, samples.shape[1], sample_rate, plan)
    near = plan.level_db[low:high]
    if not near.any():
        return samples
    db = np.interp(frame, np.arange(len(near)), near)
    touched = db != 0.0
    samples[:, touched] *= level_gain(db[touched])
    return samples


def of_air(samples: Floats, content: Content, plan: Plan, sample_rate: int, begin: int, *, keep: bool) -> Floats:
    """Only the voiceless air of track samples that start at `begin`, or (`keep` False) everything but it."""
    frame, low, high = _frames_of(begin, samples.shape[1], sample_rate, plan)
    share = air_share(content.air.values(), (low, high), len(plan.level_db))
    weight = np.interp(frame, np.arange(len(share)), share)
    return samples * (weight if keep else 1.0 - weight)
