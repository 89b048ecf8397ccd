"""``glass-thread bench real --clips CLIP…``: what large changes of pitch do to real voices, of which no truth is known.

Every note is moved by the same interval, by our renderer with and without its source model and by the references that
are installed; what should stay is compared with the clip as it was sung, over the voiced frames.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
import scipy

from ...core.analysis.analysis import analyse
from ...core.analysis.pitch.f0 import track_f0
from ...core.measure import evaluation as ev
from ...core.measure.formants import formants
from ...core.measure.loudness import measure_loudness
from ...core.signal.types import HOP_S, Analysis, Floats
from ...core.synthesis.render import render_whole
from ...core.synthesis.voice.harmonic_swap import SOURCE_SHARE
from ...formats.audio import read_audio
from .references import reference_formants, reference_renderers

Row = dict[str, Any]
CENTS = (300, -300, 700, -700, 1200, -1200)
BANDS_HZ = ((1500.0, 3000.0), (3000.0, 5500.0), (5500.0, 10_000.0))
LOW_HZ = (80.0, 1500.0)
SIZE = 2048
_EVERY = 4  # of the voiced frames, for formants


class Clip(NamedTuple):
    """A recording as one channel, with what was found in it."""

    name: str
    audio: Floats
    rate: int
    found: Analysis


def bench_real(clips: Sequence[Path]) -> list[Row]:
    """One row a clip, interval and method."""
    return [row for path in clips for clip in (read_clip(path),) for cents in CENTS for row in _rows(clip, cents)]


def read_clip(path: Path) -> Clip:
    """Read and analyse a recording."""
    audio, info = read_audio(path)
    mono = np.ascontiguousarray(audio.mean(axis=0), dtype=np.float64)
    return Clip(path.stem, mono, info.sample_rate, analyse(mono, info.sample_rate))


def bench_formants(clips: Sequence[Path]) -> list[Row]:
    """By how many percent the lowest three formants move, by linear prediction of our own and by the reference."""
    rows = []
    for clip in map(read_clip, clips):
        times = np.flatnonzero(clip.found.contour.voiced)[::_EVERY] * HOP_S
        for cents in CENTS:
            for method, sound in _tuned(clip, cents).items():
                rows.append({"clip": clip.name, "cents": cents, "method": method, **_moved(clip, sound, times)})
    return rows


def _moved(clip: Clip, tuned: Floats, times_s: Floats) -> Row:
    readers = {"LPC": formants, "Praat": reference_formants()}
    found = {}
    for name, read in readers.items():
        if read is None:
            continue
        old, new = (read(sound, clip.rate, times_s) for sound in (clip.audio, tuned))
        by = 100.0 * (np.nanmedian(new / old, axis=0) - 1.0)
        found |= {f"F{k} {name} %": float(value) for k, value in enumerate(by, 1)}
    return found


def _tuned(clip: Clip, cents: int) -> dict[str, Floats]:
    """The clip moved by every method."""
    sung = clip.found.contour.midi
    tuned = {f"source {share:.1f}": moved(clip, cents, share) for share in (0.0, 0.5, 1.0)}
    for method, correct in reference_renderers().items():
        tuned[method.split(",")[0]] = correct(clip.audio, clip.rate, sung, sung + cents / 100.0)
    return tuned


def _rows(clip: Clip, cents: int) -> list[Row]:
    return [{"clip": clip.name, "cents": cents, "method": method, **compared(clip, sound, cents)}
            for method, sound in _tuned(clip, cents).items()]  # fmt: skip


def moved(clip: Clip, cents: int, source_share: float = SOURCE_SHARE) -> Floats:
    """The clip with everything that has a pitch moved, by our renderer."""
    correction = np.where(clip.found.contour.voiced, cents / 100.0, 0.0)
    whole = clip.audio[np.newaxis]
    return render_whole(whole, clip.rate, clip.found.contour, correction, source_share=source_share)[0]


def compared(clip: Clip, tuned: Floats, cents: int) -> Row:
    """Differences tuned less sung: bands and the noise in dB, loudness in LU, and how far the pitch is off in cents."""
    source, rate, contour = clip.audio, clip.rate, clip.found.contour
    old, new = (_band_levels(x, rate, contour.voiced) for x in (source, tuned))
    loud = [measure_loudness(x[np.newaxis], rate).integrated_lufs or np.nan for x in (source, tuned)]
    wanted = contour.midi + cents / 100.0
    noise = [ev.harmonics_to_noise(x, rate, midi) for x, midi in ((source, contour.midi), (tuned, wanted))]
    off = 100.0 * (track_f0(tuned, rate).midi[: len(wanted)] - wanted)
    names = [f"{low / 1000:.1f} to {high / 1000:.1f} kHz" for low, high in BANDS_HZ]
    bands = dict(zip(names, (new - old).tolist(), strict=True))
    return {
        **bands,
        "loudness": loud[1] - loud[0],
        "noise": noise[1] - noise[0],
        "off": float(np.nanmedian(np.abs(off))),
    }


def _band_levels(audio: Floats, rate: int, voiced: np.ndarray) -> Floats:
    """Level of each band over that below 1.5 kHz, mean of the voiced frames in dB."""
    at = (np.flatnonzero(voiced) * HOP_S * rate).astype(int)
    at = at[(at > SIZE) & (at < len(audio) - SIZE)][::4]
    frames = audio[at[:, None] + np.arange(-SIZE // 2, SIZE // 2)] * np.hanning(SIZE)
    power = np.abs(scipy.fft.rfft(frames, axis=1)) ** 2
    freq = np.fft.rfftfreq(SIZE, 1.0 / rate)

    def level(low: float, high: float) -> Floats:
        return 10.0 * np.log10(power[:, (freq >= low) & (freq < high)].sum(axis=1) + 1e-12)

    return np.array([np.mean(level(*band) - level(*LOW_HZ)) for band in BANDS_HZ])
