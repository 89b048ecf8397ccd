"""The sound of tracks by (track, plan, span), for playback, prints and the command line alike.

Sources are read piece by piece; runs that were rendered are remembered by what they were made from, so an edit renders
only what it touched.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Hashable, Iterator, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from ...core.document.content import Content
from ...core.document.items.borrows import Borrow, in_layers, stretched
from ...core.plan.borrowed import as_sung_plan, lending_plan, with_borrows
from ...core.plan.level_plan import air_share, level_gain
from ...core.plan.plan import Plan
from ...core.signal.errors import AudioError, ParameterError
from ...core.signal.recording import Mono
from ...core.signal.signal_tools import resample, runs, voiced_around
from ...core.signal.types import HOP_S, Analysis, Floats
from ...core.synthesis.laid_in import LaidIn, Piece
from ...core.synthesis.placing import placed
from ...core.synthesis.render import Patch, apply_patches, render_part
from ...core.synthesis.voice.layout import Layout, Run, lay_out, prepare_run, run_map, run_samples
from ...formats.audio import AudioInfo
from ...store.byte_cache import ByteCache
from .recordings import CachedRecording, Recordings, Shelf

SOURCE_BYTES, PATCH_BYTES, RUN_BYTES, LAYOUT_BYTES, PIECE_BYTES = 64 << 20, 64 << 20, 48 << 20, 32 << 20, 16 << 20
ANALYSIS_BYTES = 48 << 20
PRINT_BLOCK_S = 10


class LaidRecording(LaidIn):
    """A recording in places of which others are heard."""

    def __init__(self, recording: CachedRecording, pieces: Sequence[Piece]) -> None:
        super().__init__(recording, pieces)
        self.name = recording.name

    def made_of(self, begin: int, end: int) -> Hashable:
        """What the samples [begin, end) follow from."""
        pieces = [piece.name for piece in self.over(begin, end)]
        return (self.name, *pieces) if pieces else self.name


Source = CachedRecording | LaidRecording


class Block(NamedTuple):
    """Samples of a track from sample `begin` on: in the recording; as sung but moved in time, NaN where that is no
    sample of the recording, be it rendered or borrowed; and tuned.

    `displaced` are ranges of samples, counted as `begin` is, that nothing is asked of and that still lie up to half a
    cycle off their place, as what is edited before them is too short to bring them back.
    """

    begin: int
    sung: Floats
    moved: Floats
    tuned: Floats
    displaced: tuple[tuple[int, int], ...] = ()


def track_length(source: Source, plan: Plan) -> int:
    """Samples of a track after all edits of time."""
    return round(plan.moves(source.sample_rate).to_target(source.frames))


class Renderer:
    """Renders spans of plans over recordings; safe to call from several threads."""

    def __init__(self) -> None:
        self._runs: ByteCache[Run] = ByteCache(RUN_BYTES, lambda run: 2 * run.marks.nbytes + 200)
        self._layouts: ByteCache[Layout] = ByteCache(LAYOUT_BYTES, lambda layout: 10 * layout.marks.nbytes + 2000)
        self._patches: ByteCache[Patch] = ByteCache(PATCH_BYTES, lambda patch: patch.samples.nbytes + 200)

    def heard(self, source: CachedRecording, plan: Plan) -> Source:
        """What a plan is rendered from: the recording, with what is borrowed laid in."""
        if plan.borrows:
            raise ParameterError("A file alone has nothing to borrow from: borrow in a song.")
        return source

    def span(self, source: CachedRecording, plan: Plan, begin: int, end: int) -> Floats:
        """Tuned track samples [begin, end), shape (channels, end - begin); the same as that slice of the whole."""
        begin, end = max(0, begin), max(0, min(end, track_length(source, plan)))
        if end <= begin:
            return source.read(0, 0)
        heard = self.heard(source, plan)
        tuned = apply_patches(_moved(heard, plan, begin, end), self._patches_of(heard, plan, begin, end), begin)
        return with_level(tuned, plan, source.sample_rate, begin)

    def as_recorded(self, source: CachedRecording, plan: Plan, begin: int, end: int) -> Floats:
        """Track samples [begin, end) as sung, each where the edits of time put it, NaN where that is no sample of the
        recording."""
        return _moved(self.heard(source, plan), plan, begin, end, recorded=True)

    def displaced(self, source: CachedRecording, plan: Plan, begin: int, end: int) -> tuple[tuple[int, int], ...]:
        """Ranges of track samples in [begin, end) that are off their place; see `Block`."""
        heard, found = self.heard(source, plan), []
        for run in _runs_in(plan, source.sample_rate, begin, end):
            laid = self._laid_out(heard, plan, run)
            if laid is not None:
                layout, at, _asked = laid
                found += [(max(begin, a + at), min(end, b + at)) for a, b in layout.displaced]
        return tuple((a, b) for a, b in found if a < b)

    def _patches_of(self, source: Source, plan: Plan, begin: int, end: int) -> list[Patch]:
        found: list[Patch] = []
        for run in _runs_in(plan, source.sample_rate, begin, end):
            found += self._run_patches(source, plan, run, (begin, end))
        return found

    def _laid_out(
        self, source: Source, plan: Plan, run: tuple[int, int]
    ) -> tuple[Layout, int, tuple[Hashable, ...]] | None:
        """What becomes of a run of frames, the track sample from which that is counted, and what it is known by; None
        where nothing is asked of it."""
        first, last = run
        rate = source.sample_rate
        inner, at = run_map(plan.moves(rate), first, last, rate)
        if not plan.asked(first, last) and not inner.moves:
            return None
        whole = _name_of(source, plan, first, last)
        asked = (*whole, _digest(plan.correction[first:last]), _digest(plan.formant[first:last]), *inner.fingerprint)

        def laid_out() -> Layout:
            found = self.prepared(source, plan, first, last)
            return lay_out(found, rate, plan.correction, formant=plan.formant, time_map=inner)

        return self._layouts.made(asked, laid_out), at, asked

    def _run_patches(self, source: Source, plan: Plan, run: tuple[int, int], span: tuple[int, int]) -> list[Patch]:
        """What replaces track samples `span` of the run of frames `run`."""
        laid = self._laid_out(source, plan, run)
        if laid is None:
            return []
        layout, at, asked = laid
        begin, _end = run_samples(*run, source.sample_rate, source.frames)

        def made(part: tuple[int, int]) -> Patch:
            return render_part(lambda a, b: source.read(begin + a, begin + b), layout, part)

        return [self._patches.made((asked, part), lambda part=part: made(part)).moved_by(at)  # type: ignore[misc]
                for part in layout.parts_over(span[0] - at, span[1] - at)]  # fmt: skip

    def prepared(self, source: Source, plan: Plan, first: int, last: int) -> Run:
        """The run of voiced frames [first, last) with its pitch marks, which are the same whatever is asked of it."""
        begin, end = run_samples(first, last, source.sample_rate, source.frames)
        return self._runs.made(
            _name_of(source, plan, first, last),
            lambda: prepare_run(source.read(begin, end), source.sample_rate, plan.contour, first, last, begin),
        )

    def blocks(self, source: CachedRecording, plan: Plan, first: int = 0, last: int | None = None) -> Iterator[Block]:
        """Samples [first, last) of the track, ten seconds after ten seconds."""
        whole = track_length(source, plan)
        last = whole if last is None else min(last, whole)
        step = PRINT_BLOCK_S * source.sample_rate
        for begin in range(first, last, step):
            end = min(begin + step, last)
            here = source.read(begin, min(end, source.frames))
            sung = here if here.shape[1] == end - begin else np.pad(here, ((0, 0), (0, end - begin - here.shape[1])))
            as_it_is = not plan.stretches and not plan.borrows
            moved = sung if as_it_is else self.as_recorded(source, plan, begin, end)
            tuned = self.span(source, plan, begin, end)
            yield Block(begin, sung, moved, tuned, self.displaced(source, plan, begin, end))


class Sound(Renderer):
    """The renderer over recordings by content, and what was found in them by analysis id."""

    def __init__(self, audio: Shelf, analysis: Callable[[str], Analysis | None]) -> None:
        super().__init__()
        self._analysis = analysis
        self._pieces: ByteCache[Floats] = ByteCache(PIECE_BYTES, lambda samples: samples.nbytes)
        self._lending: ByteCache[Plan] = ByteCache(ANALYSIS_BYTES, lambda plan: 5 * plan.correction.nbytes)
        # The recording's own analysis is kept along, so that its identity stands for it.
        self._analyses: ByteCache[tuple[Analysis, Analysis]] = ByteCache(
            ANALYSIS_BYTES, lambda pair: 5 * pair[1].contour.midi.nbytes
        )
        self._blocks: ByteCache[Floats] = ByteCache(SOURCE_BYTES, lambda block: block.nbytes)
        self._recordings = Recordings(audio, self._blocks)

    def source(self, audio_hash: str) -> CachedRecording:
        """A kept recording."""
        return self._recordings.opened(audio_hash)[1]

    def let_go(self) -> None:
        """Close all files; what is still read is opened anew."""
        self._recordings.let_go()

    def analysis(self, analysis_id: str) -> Analysis:
        """What was found in a borrowed recording; AudioError when that is missing."""
        found = self._analysis(analysis_id)
        if found is None:
            raise AudioError("What was found in a borrowed recording is missing or damaged in the data folder.")
        return found

    def analysis_heard(self, analysis: Analysis, content: Content) -> Analysis:
        """An analysis of a recording with what was found in what a content borrows."""
        own, borrows = analysis.as_recorded, tuple(content.borrows.values())
        if not borrows:
            return own
        found = {one.analysis: self.analysis(one.analysis) for one in borrows}
        key = (id(own.contour.midi), borrows)
        return self._analyses.made(key, lambda: (own, with_borrows(own, borrows, found)))[1]

    def heard(self, source: CachedRecording, plan: Plan) -> Source:
        """What a plan is rendered from: the recording, with what is borrowed laid in."""
        return self.with_pieces(source, plan.borrows) if plan.borrows else source

    def with_pieces(self, source: CachedRecording, borrows: Sequence[Borrow]) -> LaidRecording:
        """A recording with what is borrowed laid in."""
        return LaidRecording(source, [self._piece(source, borrow) for borrow in in_layers(borrows)])

    def _piece(self, source: CachedRecording, borrow: Borrow) -> Piece:
        rate = source.sample_rate
        fades = round(borrow.fade_in.length_s * rate), round(borrow.fade_out.length_s * rate)
        begin, end = round(borrow.start_s * rate) - fades[0] // 2, round(borrow.end_s * rate) - fades[1] // 2 + fades[1]
        name = _digest_of(repr(replace(borrow, id="")))
        samples = self._pieces.made(
            (name, rate, source.channels), lambda: self.lent(borrow, rate, source.channels, begin, end)
        )
        return Piece(begin, samples, *fades, (borrow.fade_in.law, borrow.fade_out.law), name)

    def lent(self, borrow: Borrow, rate: int, channels: int, begin: int, end: int) -> Floats:
        """What a borrow sounds like at samples [begin, end) of the recording it is laid into, also beyond its ends."""
        other = self.source(borrow.audio)
        whole = self._lending.made(borrow.analysis, lambda: as_sung_plan(self.analysis(borrow.analysis)))
        plan = lending_plan(whole, borrow)
        there = stretched(borrow.stretches, borrow.from_s) - borrow.start_s
        if other.sample_rate == rate:
            first = begin + round(float(there) * rate)
            samples = self._whole_span(other, plan, first, first + end - begin)
        else:
            a, b = (round((at / rate + float(there)) * other.sample_rate) for at in (begin, end))
            samples = resample(self._whole_span(other, plan, a, b), other.sample_rate, rate)[:, : end - begin]
            samples = np.pad(samples, ((0, 0), (0, end - begin - samples.shape[1])))
        return samples if len(samples) == channels else np.repeat(samples.mean(axis=0)[None], channels, axis=0)

    def _whole_span(self, source: CachedRecording, plan: Plan, begin: int, end: int) -> Floats:
        """Track samples [begin, end), with silence where that lies before or after the track."""
        length = track_length(source, plan)
        low, high = (min(max(at, 0), length) for at in (begin, end))
        samples = self.span(source, plan, low, high) if low < high else np.zeros((source.channels, 0))
        return np.pad(samples, ((0, 0), (low - begin if low < high else end - begin, end - high if low < high else 0)))

    def info(self, audio_hash: str) -> AudioInfo:
        """What a kept recording says about itself."""
        return self._recordings.opened(audio_hash)[0].info

    def mono(self, audio_hash: str) -> Mono:
        """The mean of a kept recording's channels, to be read by slices."""
        return Mono(self.source(audio_hash))


def _runs_in(plan: Plan, sample_rate: int, begin: int, end: int) -> list[tuple[int, int]]:
    """The voiced runs of frames that track samples [begin, end) reach into."""
    n, midi = len(plan.correction), plan.contour.midi
    sung = plan.moves(sample_rate).to_source(np.array([begin, end], dtype=np.float64)) / (sample_rate * HOP_S)
    low, high = max(0, int(sung[0]) - 1), min(n, int(sung[1]) + 2)
    if low >= high:
        return []
    first, last = voiced_around(midi, low, high)
    return [(first + a, first + b) for a, b in runs(np.isfinite(midi[first:last]))]


def _moved(source: Source, plan: Plan, begin: int, end: int, *, recorded: bool = False) -> Floats:
    """Track samples [begin, end) as sung, where the edits of time put them; see `placed`.  With `recorded`, what is no
    sample of the recording is NaN."""
    read = source.own if recorded else source.read
    if not plan.stretches:
        return read(begin, min(end, source.frames))
    moves = plan.moves(source.sample_rate)
    return placed(read, source.frames, moves, begin, end, source.sample_rate, blends=not recorded)


def _name_of(source: Source, plan: Plan, first: int, last: int) -> tuple[Hashable, ...]:
    """What a run of voiced frames is known by: what it is read from, and what was found in it."""
    begin, end = run_samples(first, last, source.sample_rate, source.frames)
    return source.made_of(begin, end), first, last, _digest(plan.contour.midi[first:last])


def _digest_of(text: str) -> str:
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


def _digest(values: Floats) -> bytes:
    return hashlib.blake2b(values.tobytes(), digest_size=16).digest()


def _frames_around(begin: int, n: int, sample_rate: int, plan: Plan) -> tuple[int, int]:
    """The frames [low, high) around `n` track samples from `begin` on; at least one."""
    ends = np.array([begin, begin + max(n, 1) - 1], dtype=np.float64)
    first, last = (int(at) for at in plan.moves(sample_rate).to_source(ends) / (sample_rate * HOP_S))
    n_frames = len(plan.level_db)
    low = max(0, min(first, n_frames - 1))
    return low, max(min(n_frames, last + 2), low + 1)


def _by_sample(values: Floats, low: int, begin: int, n: int, sample_rate: int, plan: Plan) -> Floats:
    """Values of frames from `low` on, read at `n` track samples from `begin` on."""
    at = np.arange(begin, begin + n, dtype=np.float64)
    frames = plan.moves(sample_rate).to_source(at) / (sample_rate * HOP_S)
    return np.interp(frames, np.arange(low, low + len(values)), values)


def with_level(samples: Floats, plan: Plan, sample_rate: int, begin: int) -> Floats:
    """Apply the level changes to track samples that start at `begin`; samples outside them are not touched."""
    n = samples.shape[1]
    low, high = _frames_around(begin, n, sample_rate, plan)
    near = plan.level_db[low:high]
    if not near.any():
        return samples
    db = _by_sample(near, low, begin, n, sample_rate, plan)
    touched = db != 0.0
    samples[:, touched] *= level_gain(db[touched])
    return samples


def of_air(samples: Floats, content: Content, plan: Plan, sample_rate: int, begin: int, *, keep: bool) -> Floats:
    """Only the voiceless air of track samples that start at `begin`, or (`keep` False) everything but it."""
    n = samples.shape[1]
    low, high = _frames_around(begin, n, sample_rate, plan)
    share = air_share(content.air.values(), (low, high), len(plan.level_db))
    weight = _by_sample(share, low, begin, n, sample_rate, plan)
    return samples * (weight if keep else 1.0 - weight)
