"""Reference libraries for the benchmark, as far as they are installed (the extra ``bench``)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ...core.signal.types import HOP_S, Floats
from ...core.signal.units import hz_to_midi, midi_to_hz

Track = Callable[[Floats, int], Floats]
Correct = Callable[[Floats, int, Floats, Floats], Floats]
Lengthen = Callable[[Floats, int, Floats, float], Floats]


def reference_trackers() -> dict[str, Track]:
    """Pitch trackers: audio of shape (n,) and its rate to MIDI on the 5 ms grid, NaN unvoiced."""
    found: dict[str, Track] = {}
    try:
        import pyworld
    except ImportError:
        pass
    else:

        def dio(x: Floats, rate: int) -> Floats:
            f, t = pyworld.dio(x, rate, f0_floor=50, f0_ceil=1200, frame_period=1000 * HOP_S)
            return _to_midi(pyworld.stonemask(x, f, t, rate))

        found["pyworld dio+stonemask"] = dio
    try:
        import parselmouth
    except ImportError:
        return found

    def autocorrelation(x: Floats, rate: int) -> Floats:
        pitch = parselmouth.Sound(x, rate).to_pitch_ac(time_step=HOP_S, pitch_floor=50, pitch_ceiling=1200)
        hz = pitch.selected_array["frequency"]
        grid = np.arange(int(len(x) / rate / HOP_S) + 1) * HOP_S
        near = np.clip(np.round((grid - pitch.xs()[0]) / HOP_S).astype(int), 0, len(hz) - 1)
        return _to_midi(hz[near])

    found["parselmouth autocorrelation"] = autocorrelation
    return found


def _to_midi(hz: Floats) -> Floats:
    return np.where(hz > 0, hz_to_midi(np.maximum(hz, 1.0)), np.nan)


def reference_formants() -> Callable[[Floats, int, Floats], Floats] | None:
    """Formants of audio at some moments, in Hz, shape (n, 3); None when the library is not there."""
    try:
        import parselmouth
    except ImportError:
        return None

    def burg(x: Floats, rate: int, times_s: Floats) -> Floats:
        found = parselmouth.Sound(x, rate).to_formant_burg(time_step=HOP_S, max_number_of_formants=5)
        return np.array([[found.get_value_at_time(k, float(at)) for k in (1, 2, 3)] for at in times_s])

    return burg


def reference_renderers() -> dict[str, Correct]:
    """Resynthesis methods: audio, rate, sung and wanted MIDI on the 5 ms grid (both true) to audio."""
    found: dict[str, Correct] = {}
    try:
        import pyworld
    except ImportError:
        pass
    else:

        def vocoder(x: Floats, rate: int, sung: Floats, wanted: Floats) -> Floats:
            old, new = (np.where(np.isfinite(m), midi_to_hz(np.nan_to_num(m, nan=60.0)), 0.0) for m in (sung, wanted))
            times = np.arange(len(old)) * HOP_S
            envelope = pyworld.cheaptrick(x, old, times, rate)
            noise = pyworld.d4c(x, old, times, rate)
            return _as_long(pyworld.synthesize(new, envelope, noise, rate, 1000 * HOP_S), len(x))

        found["pyworld, true f0 given"] = vocoder
    try:
        import parselmouth
        from parselmouth.praat import call
    except ImportError:
        return found

    def overlap_add(x: Floats, rate: int, sung: Floats, wanted: Floats) -> Floats:
        known = midi_to_hz(sung[np.isfinite(sung)])
        sound = parselmouth.Sound(x, rate)
        work = call(sound, "To Manipulation", HOP_S, max(40.0, 0.8 * known.min()), 1.25 * known.max())
        tier = call("Create PitchTier", "wanted", 0, len(x) / rate)
        for frame in np.flatnonzero(np.isfinite(wanted)):
            call(tier, "Add point", frame * HOP_S, float(midi_to_hz(wanted[frame])))
        call([work, tier], "Replace pitch tier")
        return _as_long(call(work, "Get resynthesis (overlap-add)").values[0], len(x))

    found["parselmouth overlap-add, true target given"] = overlap_add
    return found


def _as_long(audio: Floats, n: int) -> Floats:
    return np.pad(audio, (0, max(0, n - len(audio))))[:n]


def reference_stretchers() -> dict[str, Lengthen]:
    """Methods that change the length of a piece and not its pitch: audio of shape (n,), rate, its true MIDI on the
    5 ms grid, and the factor, to audio."""
    found: dict[str, Lengthen] = {"phase vocoder, own": phase_vocoder}
    try:
        import pyworld
    except ImportError:
        pass
    else:

        def vocoder(x: Floats, rate: int, sung: Floats, factor: float) -> Floats:
            hz = np.where(np.isfinite(sung), midi_to_hz(np.nan_to_num(sung, nan=60.0)), 0.0)
            times = np.arange(len(hz)) * HOP_S
            parts = pyworld.cheaptrick(x, hz, times, rate), pyworld.d4c(x, hz, times, rate)
            at = np.clip(np.round(np.arange(int(len(hz) * factor)) / factor).astype(int), 0, len(hz) - 1)
            return pyworld.synthesize(hz[at], *(np.ascontiguousarray(part[at]) for part in parts), rate, 1000 * HOP_S)

        found["pyworld, true f0 given"] = vocoder
    try:
        import parselmouth
        from parselmouth.praat import call
    except ImportError:
        return found

    def overlap_add(x: Floats, rate: int, sung: Floats, factor: float) -> Floats:
        known = midi_to_hz(sung[np.isfinite(sung)])
        sound = parselmouth.Sound(x, rate)
        low, high = max(40.0, 0.8 * known.min()), 1.25 * known.max()
        return call(sound, "Lengthen (overlap-add)", low, high, factor).values[0]

    found["parselmouth overlap-add"] = overlap_add
    return found


def phase_vocoder(x: Floats, rate: int, _sung: Floats, factor: float) -> Floats:
    """The textbook method (J. L. Flanagan, R. M. Golden, "Phase vocoder", Bell System Technical Journal 45, 1966)."""
    size = 1 << int(np.ceil(np.log2(0.04 * rate)))
    hop = size // 8
    window = np.hanning(size)
    padded = np.pad(x, size)
    starts = np.arange(0, len(x) * factor + size, hop) / factor
    bins = 2.0 * np.pi * hop * np.arange(size // 2 + 1) / size
    out, weight = np.zeros(int(len(x) * factor) + 3 * size), np.zeros(int(len(x) * factor) + 3 * size)
    phase = np.zeros(size // 2 + 1)
    for number, start in enumerate(starts.astype(int)):
        if start + hop + size > len(padded):
            break
        here, next_one = (np.fft.rfft(window * padded[at : at + size]) for at in (start, start + hop))
        phase = np.angle(here) if number == 0 else phase
        at = number * hop
        out[at : at + size] += window * np.fft.irfft(np.abs(here) * np.exp(1j * phase))
        weight[at : at + size] += window**2
        moved = np.angle(next_one) - np.angle(here) - bins
        phase = phase + bins + moved - 2.0 * np.pi * np.round(moved / (2.0 * np.pi))
    begin = int(size * factor)
    return (out / np.maximum(weight, 1e-3))[begin : begin + int(len(x) * factor)]
