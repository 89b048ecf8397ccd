"""What comes on a recording beside the singer: a room, mains hum, another voice in the headphones, noise; and what a
voice or the way into the machine does by itself: creak, growl, a constant offset, a narrow band.

Levels are in dB of the power of the sung parts; the truth of who sings stays that of the performance.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import scipy

from ..core.signal.types import Floats
from .singer import Sung, sing
from .voices import random_performance


def _sung_power(sung: Sung) -> float:
    return float(np.mean(sung.audio[np.isfinite(sung.midi)] ** 2))


def _beside(sung: Sung, sound: Floats, level_db: float) -> Sung:
    """The take with a sound brought to a level under it."""
    own = float(np.mean(sound**2))
    factor = np.sqrt(_sung_power(sung) / max(own, 1e-20)) * 10 ** (level_db / 20)
    return replace(sung, audio=sung.audio + factor * sound)


def in_a_room(sung: Sung, level_db: float, seed: int, *, rt60_s: float = 1.0) -> Sung:
    """Exponentially dying noise as the room's answer (J. A. Moorer, "About this reverberation business", 1979)."""
    rate = sung.sample_rate
    rng = np.random.default_rng([seed, 1])
    time = np.arange(int(1.2 * rt60_s * rate)) / rate
    answer = rng.standard_normal(len(time)) * 10 ** (-3.0 * time / rt60_s)
    answer = scipy.signal.sosfilt(scipy.signal.butter(1, 4500.0, fs=rate, output="sos"), answer)
    answer[: int(0.015 * rate)] = 0.0
    return _beside(sung, scipy.signal.fftconvolve(sung.audio, answer)[: len(sung.audio)], level_db)


Partials = tuple[tuple[int, float], ...]
_HUM: Partials = ((1, 1.0), (2, 0.5), (3, 0.6), (5, 0.25), (7, 0.1))
BUZZ: Partials = tuple((k, k**-0.5) for k in range(1, 16))  # of a dimmer or a bad ground


def with_hum(sung: Sung, level_db: float, seed: int, *, mains_hz: float = 50.0, parts: Partials = _HUM) -> Sung:
    """Steady multiples of the mains' frequency."""
    rng = np.random.default_rng([seed, 2])
    time = np.arange(len(sung.audio)) / sung.sample_rate
    hum = sum(size * np.sin(2 * np.pi * (k * mains_hz * time + rng.random())) for k, size in parts)
    return _beside(sung, np.asarray(hum), level_db)


def with_bleed(sung: Sung, level_db: float, seed: int, *, voice: str = "alto") -> Sung:
    """Another voice singing something else all the while, heard through headphones: without its lows."""
    other = sing(random_performance(voice, 900 + seed, duration_s=len(sung.audio) / sung.sample_rate), sung.sample_rate)
    thin = scipy.signal.butter(2, 250.0, "high", fs=sung.sample_rate, output="sos")
    sound = scipy.signal.sosfilt(thin, other.audio)
    return _beside(sung, np.pad(sound, (0, max(0, len(sung.audio) - len(sound))))[: len(sung.audio)], level_db)


def with_music(sung: Sung, level_db: float, seed: int) -> Sung:
    """Chords, bass and percussion, heard through headphones: without their lows."""
    from .backing import play

    n = len(sung.audio)
    music = np.roll(play(sung.sample_rate).mean(axis=0), -int(np.random.default_rng([seed, 5]).integers(10**6)))
    thin = scipy.signal.butter(2, 250.0, "high", fs=sung.sample_rate, output="sos")
    return _beside(sung, scipy.signal.sosfilt(thin, np.resize(music, n)), level_db)


def with_other(sung: Sung, other: Sung, level_db: float) -> Sung:
    """Somebody else at the same microphone."""
    sound = other.audio[: len(sung.audio)]
    return _beside(sung, np.pad(sound, (0, len(sung.audio) - len(sound))), level_db)


def growling(sung: Sung, depth: float = 0.3) -> Sung:
    """Every second cycle softer, as ventricular folds and growl do (period doubling: Sakakibara et al. 2004, from
    memory)."""
    cycles = np.cumsum(np.nan_to_num(440.0 * np.exp2((sung.midi - 69.0) / 12.0))) / sung.sample_rate
    return replace(sung, audio=sung.audio * (1.0 + depth * np.cos(np.pi * cycles)) / (1.0 + depth))


def with_rumble(sung: Sung, seed: int, *, level_db: float = -12.0) -> Sung:
    """Steps and traffic below 50 Hz, and a puff of air into the microphone before every phrase."""
    rng = np.random.default_rng([seed, 6])
    rate, n = sung.sample_rate, len(sung.audio)
    low = scipy.signal.butter(2, 50.0, fs=rate, output="sos")
    taken = _beside(sung, scipy.signal.sosfilt(low, rng.standard_normal(n)), level_db)
    audio, length = taken.audio.copy(), int(0.09 * rate)
    puff = np.sin(2 * np.pi * 45.0 * np.arange(length) / rate) * np.exp(-np.arange(length) / (0.025 * rate))
    for start in np.flatnonzero(np.diff(np.isfinite(sung.midi).astype(int)) == 1):
        first = max(0, start - length // 2)
        room = min(length, n - first)
        audio[first : first + room] += 0.35 * puff[:room]
    return replace(sung, audio=audio)


def offset_by(sung: Sung, offset: float) -> Sung:
    """A converter whose silence is not zero."""
    return replace(sung, audio=sung.audio + offset)


def in_band(sung: Sung, low_hz: float, high_hz: float) -> Sung:
    """Through a line that carries no more than a band."""
    sos = scipy.signal.butter(6, [low_hz, high_hz], "band", fs=sung.sample_rate, output="sos")
    return replace(sung, audio=scipy.signal.sosfilt(sos, sung.audio))


def clipped(sung: Sung, over_db: float) -> Sung:
    """Driven so many dB over full scale, and cut off there."""
    most = float(np.max(np.abs(sung.audio))) / 10 ** (over_db / 20)
    return replace(sung, audio=np.clip(sung.audio, -most, most))


def in_noise(sung: Sung, level_db: float, seed: int) -> Sung:
    """White noise."""
    return _beside(sung, np.random.default_rng([seed, 3]).standard_normal(len(sung.audio)), level_db)


def softer_from(sung: Sung, share: float, level_db: float) -> Sung:
    """Everything after a share of the take softer, the change within a hundredth of a second."""
    gain = np.where(np.arange(len(sung.audio)) < share * len(sung.audio), 1.0, 10 ** (level_db / 20))
    width = int(0.01 * sung.sample_rate)
    return replace(sung, audio=sung.audio * scipy.ndimage.uniform_filter1d(gain, width))


def with_creak(sung: Sung, seed: int, *, length_s: float = 0.08) -> Sung:
    """Every voiced run sets in with irregular pulses near 60 Hz; the pitch there counts as unknown (not a number)."""
    rng = np.random.default_rng([seed, 4])
    rate, audio, midi = sung.sample_rate, sung.audio.copy(), sung.midi.copy()
    length = int(length_s * rate)
    starts = np.flatnonzero(np.diff(np.isfinite(midi).astype(int)) == 1) + 1
    for start in starts:
        end = start + length
        if end + rate // 20 > len(audio):
            continue
        period = audio[end : end + int(rate / 100)]
        audio[start:end] = 0.0
        at = start
        while at < end:
            piece = period * np.hanning(2 * len(period))[len(period) :]
            room = min(len(piece), len(audio) - at)
            audio[at : at + room] += 0.7 * piece[:room] * rng.uniform(0.6, 1.0)
            at += int(rate / 60 * 2 ** rng.normal(0.0, 0.22))
        midi[start : end + rate // 100] = np.nan
    return replace(sung, audio=audio, midi=midi)


Dirt = Callable[[Sung, int], Sung]
DIRT: dict[str, Dirt] = {
    "as sung": lambda sung, _seed: sung,
    "mains hum at −25 dB": lambda sung, seed: with_hum(sung, -25.0, seed),
    "bleed at −30 dB": lambda sung, seed: with_bleed(sung, -30.0, seed),
    "bleed at −18 dB": lambda sung, seed: with_bleed(sung, -18.0, seed),
    "music at −30 dB": lambda sung, seed: with_music(sung, -30.0, seed),
    "mains buzz at −20 dB": lambda sung, seed: with_hum(sung, -20.0, seed, parts=BUZZ),
    "rumble and plosives": lambda sung, seed: with_rumble(sung, seed),
    "offset of 0.01": lambda sung, _seed: offset_by(sung, 0.01),
    "offset of 0.1": lambda sung, _seed: offset_by(sung, 0.1),
    "growl": lambda sung, _seed: growling(sung),
    "plate of 2 s at −10 dB": lambda sung, seed: in_a_room(sung, -10.0, seed, rt60_s=2.0),
    "telephone": lambda sung, _seed: in_band(sung, 300.0, 3400.0),
    "clipped by 6 dB": lambda sung, _seed: clipped(sung, 6.0),
    "room of 1.2 s at −12 dB": lambda sung, seed: in_a_room(sung, -12.0, seed, rt60_s=1.2),
    "room of 0.9 s at −20 dB": lambda sung, seed: in_a_room(sung, -20.0, seed, rt60_s=0.9),
    "noise at −25 dB": lambda sung, seed: in_noise(sung, -25.0, seed),
    "second half 30 dB softer": lambda sung, _seed: softer_from(sung, 0.5, -30.0),
    "creaky starts": lambda sung, seed: with_creak(sung, seed),
}
