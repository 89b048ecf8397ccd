"""The one writer of prints: block after block, at unity, untouched samples as they were."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import soxr
from numpy.typing import NDArray

from ...core.analysis.analysis import Progress
from ...core.measure.loudness import LoudnessMeter
from ...core.signal.errors import AudioError, ParameterError
from ...core.signal.signal_tools import merged_ranges
from ...core.signal.types import Floats
from ...core.signal.units import gain_to_db
from ...core.signal.validation import in_range
from ...core.synthesis.dither import quantise
from ...formats.audio import AudioInfo, FlacWriter
from ...formats.wave.wav import WavWriter
from ..sound.sound import Block
from .changed import Changed

CONTAINERS = ("wav", "flac")
DEPTHS = (16, 24, 32)
RATES = (44_100, 48_000, 88_200, 96_000)
Blocks = Iterator[Block]


@dataclass(frozen=True)
class PrintSummary:
    """What a print holds: shares of samples that are as recorded, in their place or moved (0 to 1; the rest is
    rendered or borrowed), peak in dBFS, what sounds different, loudness and true peak (ITU-R BS.1770), and the share
    that is borrowed, with where from; and seconds of the print that nothing was asked of and that lie up to half a
    cycle off their place."""

    untouched_share: float
    peak_dbfs: float
    notes_changed: int
    air_changed: int = 0
    moved_share: float = 0.0
    integrated_lufs: float | None = None
    true_peak_dbtp: float = 0.0
    borrowed_share: float = 0.0
    borrowed: tuple[str, ...] = ()
    displaced: tuple[tuple[float, float], ...] = ()


_SHARES = ("untouched_share", "moved_share", "borrowed_share")
_COUNTS = ("notes_changed", "air_changed")


def summary_from(values: Mapping[str, Any]) -> PrintSummary:
    """A summary that came as plain data, checked value by value.

    Raises
    ------
    AudioError
        When a value is unknown, missing, or none that a print can have.
    """
    try:
        found = PrintSummary(**{**values, "borrowed": tuple(values.get("borrowed", ())),
                                "displaced": tuple((a, b) for a, b in values.get("displaced", ()))})  # fmt: skip
        numbers = [getattr(found, name) for name in (*_SHARES, *_COUNTS, "peak_dbfs", "true_peak_dbtp")]
        numbers += [at for pair in found.displaced for at in pair]
        numbers += [] if found.integrated_lufs is None else [found.integrated_lufs]
        plain = all(type(one) in (int, float) and not math.isnan(one) for one in numbers)
        whole = plain and all(type(getattr(found, name)) is int and getattr(found, name) >= 0 for name in _COUNTS)
        shares = plain and all(0.0 <= getattr(found, name) <= 1.0 + 1e-9 for name in _SHARES)
        words = all(isinstance(one, str) for one in found.borrowed)
    except (TypeError, ValueError, AttributeError) as error:
        raise AudioError("A worker handed in something that is no print; print again.") from error
    if not (whole and shares and words):
        raise AudioError("A worker handed in a print with figures that no print has; print again.")
    return found


@dataclass(frozen=True)
class PrintForm:
    """How a print is written: container, bits (32 is float), lowering in dB, its time stamp in samples, its sample rate
    where that is not the track's, and, for WAV, samples of the print with the names of what begins there."""

    container: str
    bits: int
    lower_db: float = 0.0
    time_reference: int | None = None
    sample_rate: int | None = None
    cues: tuple[tuple[int, str], ...] = ()


def usual_depth(info: AudioInfo) -> int:
    """The source's own depth, as far as prints have it."""
    return 32 if info.is_float or info.bits > 24 or info.bits == 0 else max(16, info.bits)


def print_form(
    info: AudioInfo, *, container: str = "wav", bits: int | None = None, lower_db: float = 0.0,
    time_reference: int | None = None, sample_rate: int | None = None,
) -> PrintForm:  # fmt: skip
    """A checked form; without `bits` the source's own depth, as far as the container has it."""
    depth = usual_depth(info) if bits is None else bits
    if container not in CONTAINERS or depth not in DEPTHS:
        raise ParameterError("A print is wav or flac, at 16, 24 or 32 (float) bits.")
    if container == "flac" and depth == 32:
        if bits is not None:
            raise ParameterError("FLAC holds 16 or 24 bits; choose one of them or WAV.")
        depth = 24
    if sample_rate is not None and sample_rate not in RATES:
        raise ParameterError(f"A print is at the recording's own rate or at one of: {', '.join(map(str, RATES))} Hz.")
    rate = None if sample_rate == info.sample_rate else sample_rate
    return PrintForm(container, depth, in_range(lower_db, 0, 60, "Lower by (dB)"), time_reference, rate)


def write_print(
    path: Path, info: AudioInfo, blocks: Blocks, form: PrintForm, changed: Changed,
    report: Progress = lambda _stage, _share: None,
) -> PrintSummary:  # fmt: skip
    """Write blocks of samples to `path`.

    Samples that no edit touched are written without dither and, at the source's depth, bit-identical, moved or not;
    edited ones get triangular dither at 16 and 24 bits.

    Raises
    ------
    ParameterError
        If the peak lies over full scale and neither lowering nor 32-bit float takes care of it.
    """
    gain = 10.0 ** (-form.lower_db / 20.0)
    rate = form.sample_rate or info.sample_rate
    scale = 1.0 if form.bits == 32 else 2.0 ** (form.bits - 1)
    same, moved, peak = 0, 0, 0.0
    displaced: list[tuple[int, int]] = []
    meter, other = LoudnessMeter(rate, info.channels), Resampled(info, rate) if form.sample_rate else None
    writer = _writer(path, info, form, other.frames if other else info.frames)
    try:
        for done, (begin, sung, placed, tuned, off) in enumerate(blocks):
            displaced += off
            report("Printing", 0.05 + 0.9 * min(done * sung.shape[1] / max(info.frames, 1), 1.0))
            edited = (placed != tuned).any(axis=0)
            tuned = tuned * gain if form.lower_db else tuned
            if other:
                tuned = other.add(tuned)
            meter.add(tuned)
            peak = max(peak, float(np.abs(tuned).max(initial=0.0)))
            if peak > 1.0 and form.bits != 32:
                over = float(gain_to_db(peak))
                raise ParameterError(
                    f"The peak is {over:.1f} dB over full scale: lower the print, or keep 32-bit float."
                )
            dithered = np.ones(tuned.shape[1], dtype=bool) if other else edited | bool(form.lower_db)
            rng = np.random.default_rng((abs(begin), begin < 0))
            part: NDArray[Any] = (
                tuned.astype(np.float32) if form.bits == 32 else quantise(tuned, form.bits, dithered=dithered, rng=rng)
            )
            writer.write(part)
            here, there = (0, 0) if other else _kept(sung, placed, part / scale)
            same, moved = same + here, moved + there
    finally:
        writer.close()
    total = max(info.frames, 1)
    loud = meter.result()
    lent = changed.borrowed_s * info.sample_rate / total
    return PrintSummary(
        same / total, float(gain_to_db(peak)), changed.notes, changed.air, moved / total, loud.integrated_lufs,
        loud.true_peak_dbtp, min(lent, 1.0), changed.borrowed, _in_seconds(displaced, info.sample_rate),
    )  # fmt: skip


class Resampled:
    """Sound of a known length at another rate, block after block (soxr, very high quality)."""

    def __init__(self, info: AudioInfo, rate: int) -> None:
        self.frames = round(info.frames * rate / info.sample_rate)
        self._stream = soxr.ResampleStream(info.sample_rate, rate, info.channels, dtype="float64", quality="VHQ")
        self._taken, self._given, self._whole = 0, 0, info.frames

    def add(self, samples: Floats) -> Floats:
        """What comes out for the next samples, shape (channels, n); with the last ones all that is left."""
        self._taken += samples.shape[1]
        last = self._taken >= self._whole
        out = self._stream.resample_chunk(np.ascontiguousarray(samples.T), last=last).T
        out = out[:, : self.frames - self._given]
        if last and self._given + out.shape[1] < self.frames:
            out = np.pad(out, ((0, 0), (0, self.frames - self._given - out.shape[1])))
        self._given += out.shape[1]
        return out


def _kept(sung: Floats, placed: Floats, printed: Floats) -> tuple[int, int]:
    """How many samples are as recorded in their place, and how many as recorded at another one."""
    in_place = (printed == sung).all(axis=0)
    moved = (printed == placed).all(axis=0) & ~in_place
    return int(in_place.sum()), int(moved.sum())


def _in_seconds(ranges: list[tuple[int, int]], sample_rate: int) -> tuple[tuple[float, float], ...]:
    """Ranges of samples in seconds, those that touch made one."""
    return tuple((round(a / sample_rate, 3), round(b / sample_rate, 3)) for a, b in merged_ranges(ranges, 2))


def _writer(path: Path, info: AudioInfo, form: PrintForm, frames: int) -> WavWriter | FlacWriter:
    rate = form.sample_rate or info.sample_rate
    if form.container == "flac":
        return FlacWriter(path, rate, info.channels, bits=form.bits)
    stamp = form.time_reference
    cues = [(round(at * rate / info.sample_rate), text) for at, text in form.cues]
    if stamp is not None and form.sample_rate:
        stamp = round(stamp * rate / info.sample_rate)
    return WavWriter(path, rate, info.channels, frames, bits=form.bits, time_reference=stamp, cues=cues)


def summarise(blocks: Blocks, info: AudioInfo, changed: Changed) -> PrintSummary:
    """Shares, peak and loudness of what a print at the source's depth would hold."""
    same = moved = total = 0
    displaced: list[tuple[int, int]] = []
    peak, meter = 0.0, LoudnessMeter(info.sample_rate, info.channels)
    for _begin, sung, placed, tuned, off in blocks:
        displaced += off
        here, there = _kept(sung, placed, tuned)
        same, moved, total = same + here, moved + there, total + sung.shape[1]
        peak = max(peak, float(np.abs(tuned).max(initial=0.0)))
        meter.add(tuned)
    loud, total = meter.result(), max(total, 1)
    return PrintSummary(
        same / total, float(gain_to_db(peak)), changed.notes, changed.air, moved / total, loud.integrated_lufs,
        loud.true_peak_dbtp, changed.borrowed_s * info.sample_rate / total, changed.borrowed,
        _in_seconds(displaced, info.sample_rate),
    )  # fmt: skip
